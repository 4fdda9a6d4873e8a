import { useQuery } from "@tanstack/react-query";
import { useEffect } from "react";
import { api, data } from "../../api/client";
import { keys } from "../../api/keys";
import { Loading } from "../../frame/states";
import own from "./contacts.module.css";

/** The whole WAV at once, so that one can go to and fro in it. */
function useWav(id: string, wanted: boolean): string | undefined {
  const wav = useQuery({
    queryKey: keys.of(...keys.one("heard", id), "wav"),
    staleTime: Infinity,
    gcTime: 0,
    enabled: wanted,
    queryFn: async () =>
      URL.createObjectURL(
        (await data(
          api.GET("/api/v1/contacts/{id}/heard.wav", { params: { path: { id } }, parseAs: "blob" }),
        )) as unknown as Blob,
      ),
  });
  const address = wav.data;
  useEffect(
    () => () => {
      if (address) URL.revokeObjectURL(address);
    },
    [address],
  );
  return address;
}

/** The contact as its caller heard it: prompts whole, music and talk as a moment of each. Says at which moment of the contact it is. */
export function HearIt({ id, at }: { id: string; at: (moment: number | null) => void }) {
  const parts = useQuery({
    queryKey: keys.one("heard", id),
    queryFn: () => data(api.GET("/api/v1/contacts/{id}/heard", { params: { path: { id } } })),
    staleTime: Infinity,
  });
  const found = parts.data ?? [];
  const address = useWav(id, found.length > 0);
  if (parts.isSuccess && found.length === 0) return <span className="dim">Nothing was spoken to this caller.</span>;
  if (!address || !parts.data) return <Loading what="what was heard" />;
  const moment = (ms: number) => {
    const part = found.findLast((one) => one.from_ms <= ms);
    // Within words the moment moves on with them; music and talk are a moment each.
    return part ? part.at_ms + (part.hears === "words" ? ms - part.from_ms : 0) : null;
  };
  return (
    <audio
      className={own.hear}
      controls
      autoPlay
      aria-label="As the caller heard it"
      src={address}
      onTimeUpdate={(event) => at(moment(event.currentTarget.currentTime * 1000))}
      onEnded={() => at(null)}
    />
  );
}
