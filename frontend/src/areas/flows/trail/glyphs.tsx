const shapes: Record<string, string> = {
  say: "M-6 -2v4M-3 -5v10M0 -3v6M3 -6v12M6 -2v4",
  queue: "M-5.5 0h.01M0 0h.01M5.5 0h.01",
  end: "M-4 6V-6l8 3-8 3",
  arrive:
    "M-4.5 -5c-1 5 4.500 10.500 9.500 9.500l.5-2.500-3-1.500-1.500 1.500c-1.500-.5-3-2-3.500-3.500L-1 -3.500-2.500 -6z",
  hours: "M0 -3.500V0l2.500 1.500M5.500 0a5.500 5.500 0 1 1-11 0a5.500 5.500 0 1 1 11 0",
  ring: "M-5 -3.500c2.500 6 4.500 7 8 8l2-3.500-3.500-1-1 1c-1.500-.7-2.300-1.500-3-3l1-1-1-3.500zM2 -5.500c2 .3 3.300 1.500 3.500 3.500",
  message: "M-6 -4h12v8h-12zM-6 -3.500l6 4.500 6-4.500",
  go: "M-6 0h9M0 -4l4 4-4 4M6 -5v10",
  digits: "M-5 -4h2M-1 -4h2M3 -4h2M-5 0h2M-1 0h2M3 0h2M-1 4h2",
  music: "M-3 4.500a2 2 0 1 1-.1-.1V-5l7-1.500v8a2 2 0 1 1-.1-.1",
  times: "M-5.500 -4h11v9.500h-11zM-5.500 -1h11M-2.500 -6v3M2.500 -6v3",
  fork: "M0 6v-5M0 1c0-3-4-2-4-6M0 1c0-3 4-2 4-6M-6 -3l2-2 2 2M2 -3l2-2 2 2",
  lookup: "M-1.500 4a5 5 0 1 1 .1 0M2.500 2.500l3.500 3.500",
  check_queue: "M-5.500 5V1M-1.500 5v-7M2.500 5V-1M6 5v-10",
  repeat: "M5.500 -1a5.500 5.500 0 1 0-1 4M5.500 -5v4h-4",
  fax: "M-4 -6h8v4h-8zM-6 -2h12v5h-2.500v3h-7v-3H-6z",
  set: "M-5.500 5.500l2-5L3 -6l3 3-6.500 6.500zM-3.500 .5l3 3",
  label: "M-6 -4h7l5 4-5 4h-7zM-3 0h.01",
  extension: "M-4.500 -5h2M-1 -5h2M2.500 -5h2M-4.500 -1h2M-1 -1h2M2.500 -1h2M-1 3h2",
  directory: "M-5 -6h10v12h-10zM-2 -2h4M-2 1h4",
  block: "M-6 -6h5v5h-5zM1 -6h5v5h-5zM-6 1h5v5h-5zM1 1h5v5h-5z",
  tell: "M-6 -5h12v8h-6l-4 3.500v-3.500h-2zM-3 -2h6M-3 .5h4",
  callback:
    "M-5 -3c2.500 6 4.500 7 8 8l2-3.500-3.500-1-1 1c-1.500-.7-2.300-1.500-3-3l1-1-1-3.500zM6 -6H1M3 -8.500L.5 -6 3 -3.500",
  menu: "M-4 -7h8v14h-8zM-1.500 -4h3M-1.500 0h3M-1.500 4h3",
  clock: "M0 -3.500V0l2.500 1.500M5.500 0a5.500 5.500 0 1 1-11 0a5.500 5.500 0 1 1 11 0",
};

/** The small sign on a stop. */
export function StopGlyph({ kind, colour = "var(--pine)" }: { kind: string; colour?: string }) {
  return (
    <path
      d={shapes[kind] ?? ""}
      fill={kind === "arrive" ? colour : "none"}
      stroke={colour}
      strokeWidth={kind === "queue" ? 4 : 1.6}
      strokeLinecap="round"
      strokeLinejoin="round"
    />
  );
}

/** The flag of an ending; each fate has its own shape beside its colour. */
export function FlagShape({ fate, colour }: { fate: string; colour: string }) {
  const cloth: Record<string, string> = {
    person: "M0 -13 L15 -8 L0 -3z",
    callback: "M0 -13 H14 V-8 L0 -3z",
    message: "M0 -13 H14 L10 -8 L14 -3 H0z",
    elsewhere: "M0 -13 H10 L15 -8 L10 -3 H0z",
    ended: "M0 -13 H13 V-3 H0z",
  };
  return (
    <>
      <path d="M0 0V-13" stroke={colour} strokeWidth="1.6" />
      <path d={cloth[fate] ?? ""} fill={colour} />
      <circle cx="0" cy="0" r="3.6" fill="var(--sheet)" stroke={colour} strokeWidth="1.6" />
    </>
  );
}
