const shapes: Record<string, string> = {
  say: "M-6 -2v4M-3 -5v10M0 -3v6M3 -6v12M6 -2v4",
  queue: "M-5.5 0h.01M0 0h.01M5.5 0h.01",
  end: "M-4 6V-6l8 3-8 3",
  arrive: "M-4.5 -5c-1 5 4.500 10.500 9.500 9.500l.5-2.500-3-1.500-1.500 1.500c-1.500-.5-3-2-3.500-3.500L-1 -3.500-2.500 -6z",
  hours: "M0 -3.500V0l2.500 1.500M5.500 0a5.500 5.500 0 1 1-11 0a5.500 5.500 0 1 1 11 0",
  ring: "M-5 -3.500c2.500 6 4.500 7 8 8l2-3.500-3.500-1-1 1c-1.500-.7-2.300-1.500-3-3l1-1-1-3.500zM2 -5.500c2 .3 3.300 1.500 3.500 3.500",
  message: "M-6 -4h12v8h-12zM-6 -3.500l6 4.500 6-4.500",
  go: "M-6 0h9M0 -4l4 4-4 4M6 -5v10",
  clock: "M0 -3.500V0l2.500 1.500M5.500 0a5.500 5.500 0 1 1-11 0a5.500 5.500 0 1 1 11 0",
};

/** The small sign on a stop. */
export function StopGlyph({ kind, colour = "var(--pine)" }: { kind: string; colour?: string }) {
  return (
    <path d={shapes[kind] ?? ""} fill={kind === "arrive" ? colour : "none"} stroke={colour}
      strokeWidth={kind === "queue" ? 4 : 1.6} strokeLinecap="round" strokeLinejoin="round" />
  );
}

/** The flag of an ending; each fate has its own shape beside its colour. */
export function FlagShape({ fate, colour }: { fate: string; colour: string }) {
  const cloth: Record<string, string> = {
    person: "M0 -13 L15 -8 L0 -3z",
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
