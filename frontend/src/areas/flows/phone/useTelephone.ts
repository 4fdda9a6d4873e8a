import { useMutation } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { api, data, type Schemas } from "../../../api/client";
import { line } from "../../../frame/live";
import { useTopic } from "../../../frame/useLive";
import { connectTone, endTone } from "../../../frame/tones";

export type CallState = Schemas["LiveCall"];
export type LogLine = Schemas["LiveLogLine"];

/** Lets whoever holds the telephone hear what the exchange plays: a take from where it is now, or the music. */
export function useSound(call: CallState | undefined) {
  const element = useRef<HTMLAudioElement | null>(null);
  const playing = call?.playing;
  const source = playing?.take
    ? `/api/v1/takes/${playing.take}`
    : playing?.spoken
      ? `/api/v1/spoken?${new URLSearchParams(playing.spoken).toString()}`
      : null;
  const since = call?.playing?.since_ms ?? 0;
  const music = call?.music ?? false;
  const held = call?.music_take ? `/api/v1/takes/${call.music_take}` : "/api/v1/music";
  useEffect(() => {
    if (source === null && !music) return undefined;
    const audio = new Audio(music ? held : (source ?? ""));
    audio.loop = music;
    element.current = audio;
    audio.onloadedmetadata = () => {
      const late = (line.siteTime(Date.now()) - since) / 1000;
      if (!music && late > 0.4 && late < audio.duration) audio.currentTime = late;
    };
    audio.play().catch(() => undefined);
    return () => {
      audio.pause();
    };
  }, [source, since, music, held]);
  const phase = call?.phase;
  const before = useRef<string | undefined>(undefined);
  useEffect(() => {
    if (phase === "with_person" && before.current === "queued") connectTone();
    if (phase === "ended" && before.current && before.current !== "ended") endTone();
    before.current = phase;
  }, [phase]);
}

/** One telephone: dial, press keys, hang up, and hear. */
export function useTelephone() {
  const [contact, setContact] = useState<string | null>(null);
  const { view } = useTopic("call", contact);
  const call = contact ? view?.call : undefined;
  const log = Object.values(view?.log ?? {});
  useSound(call);
  const dial = useMutation({
    mutationFn: (body: { number: string; caller: string; flow: string | null }) =>
      data(api.POST("/api/v1/calls", { body })),
    onSuccess: (placed) => {
      setContact(placed.contact);
    },
  });
  const key = useMutation({
    mutationFn: (pressed: string) =>
      api.POST("/api/v1/calls/{contact}/keys", {
        params: { path: { contact: contact ?? "" } },
        body: { key: pressed },
      }),
  });
  const say = useMutation({
    mutationFn: (words: string) =>
      data(api.POST("/api/v1/calls/{contact}/say", { params: { path: { contact: contact ?? "" } }, body: { words } })),
  });
  const hangUp = useMutation({
    mutationFn: () =>
      api.POST("/api/v1/calls/{contact}/hang-up", { params: { path: { contact: contact ?? "" } }, keepalive: true }),
  });
  const live = contact !== null && call?.phase !== "ended";
  const leave = useRef<() => void>(() => undefined);
  useEffect(() => {
    leave.current = () => {
      if (live) hangUp.mutate();
    };
  });
  // A caller who closes the page has hung up.
  useEffect(() => {
    const away = () => {
      leave.current();
    };
    window.addEventListener("pagehide", away);
    return () => {
      window.removeEventListener("pagehide", away);
      away();
    };
  }, []);
  return { contact, call, log: contact ? log : [], live, dial, key, say, hangUp, follow: setContact };
}

export type TelephoneState = ReturnType<typeof useTelephone>;
