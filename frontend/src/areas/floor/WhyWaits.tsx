import { useQuery } from "@tanstack/react-query";
import { api, data, words } from "../../api/client";
import { keys } from "../../api/keys";
import { Considered } from "../shared/Considered";
import styles from "./floor.module.css";

const FRESH_MS = 5000;

/** Why a contact waits at this moment: how those stand who could take it, and who could not. */
export function WhyWaits({ contact }: { contact: string }) {
  const why = useQuery({
    queryKey: keys.of("why-waits", contact),
    queryFn: () => data(api.GET("/api/v1/floor/contacts/{contact}/why", { params: { path: { contact } } })),
    refetchInterval: FRESH_MS,
    retry: false,
  });
  if (why.isError) return <div className={styles.does}>{words(why.error)}</div>;
  if (!why.data) return <div className={styles.does}>Looks who could take it…</div>;
  return (
    <div>
      <b>{why.data.words}</b>
      <Considered considered={why.data.considered} />
    </div>
  );
}
