import { useQuery, useQueryClient } from "@tanstack/react-query";
import { createContext, type ReactNode, use, useEffect, useMemo } from "react";
import { api, data, onSignedOut, type Session } from "../api/client";
import { keys } from "../api/keys";
import { line } from "./live";
import { Failure, Loading } from "./states";

type Verb = "see" | "change" | "use";

interface SessionValue {
  session: Session;
  may: (verb: Verb, area: string) => boolean;
}

const SessionContext = createContext<SessionValue | null>(null);

/** Who is signed in, and what they may do. */
export function useSession(): SessionValue {
  const value = use(SessionContext);
  if (!value) throw new Error("useSession outside of SessionProvider");
  return value;
}

/** Knows the session; shows `signIn` while nobody is signed in. */
export function SessionProvider({ children, signIn }: { children: ReactNode; signIn: ReactNode }) {
  const cache = useQueryClient();
  const query = useQuery({ queryKey: keys.session, queryFn: () => data(api.GET("/api/v1/session")) });
  const session = query.data;
  const known = Boolean(session?.username);
  useEffect(() => {
    onSignedOut(() => void cache.invalidateQueries({ queryKey: keys.session }));
  }, [cache]);
  useEffect(() => {
    if (known) line.start();
    else line.stop();
  }, [known]);
  const value = useMemo(
    () => session && { session, may: (verb: Verb, area: string) => (session.rights[area] ?? []).includes(verb) },
    [session],
  );
  if (query.isPending) return <Loading what="Hazeridge" />;
  if (query.isError || !value) return <Failure error={query.error} retry={() => void query.refetch()} />;
  return <SessionContext value={value}>{known ? children : signIn}</SessionContext>;
}
