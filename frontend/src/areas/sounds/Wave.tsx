/** A recording's wave form, as the server measured it. */
export function Wave({
  peaks,
  width = 240,
  height = 34,
  played = 0,
}: {
  peaks: number[];
  width?: number;
  height?: number;
  played?: number;
}) {
  const step = width / Math.max(1, peaks.length);
  return (
    <svg
      width={width}
      height={height}
      viewBox={`0 0 ${width} ${height}`}
      aria-hidden="true"
      style={{ display: "block", maxWidth: "100%" }}>
      {peaks.map((peak, i) => {
        const bar = Math.max(1.2, (peak / 100) * height);
        return (
          <rect
            key={i}
            x={i * step}
            y={(height - bar) / 2}
            width={Math.max(0.8, step - 0.7)}
            height={bar}
            rx="0.6"
            fill={i / peaks.length < played ? "var(--clay)" : "var(--pine-70)"}
          />
        );
      })}
    </svg>
  );
}
