import { memo } from "react";
import { asButton } from "./asButton";
import { type PlacedArm, type PlacedStop, textWidth } from "./layout";
import { fateLooks, pathOf, type Point, strandsOf, thickness } from "./strands";

const GUTTER = 44;

/** The way of an arm: along its own lane, by a bend at the fork and one before a stop that stands elsewhere. */
export function wayOf(arm: PlacedArm, from: PlacedStop): Point[] {
  const startY = from.stop.kind === "menu" ? arm.y : from.y;
  const begin = { x: arm.x0, y: startY };
  const end = { x: arm.x1, y: arm.y1 };
  const turns = [
    [from.x + GUTTER, startY, arm.y],
    [arm.x1 - arm.merge, arm.y, arm.y1],
  ] as const;
  const bends = turns
    .filter(([, y0, y1]) => Math.abs(y0 - y1) > 0.5)
    .flatMap(([x, y0, y1]) => [
      { x, y: y0 },
      { x, y: y1 },
    ]);
  return [begin, ...bends, end];
}

function labelSpot(arm: PlacedArm, from: PlacedStop, thick: number): { x: number; y: number } {
  if (from.stop.kind === "menu") return { x: from.x + 22, y: arm.y - 6 - thick / 2 };
  return { x: from.x + GUTTER + 12, y: arm.y - 6 - thick / 2 };
}

interface Props {
  arm: PlacedArm;
  from: PlacedStop;
  target: PlacedStop | undefined;
  count: number;
  walked: boolean;
  grey: boolean;
  goTo: (id: string) => void;
}

function Pill({ x, y, name, onClick }: { x: number; y: number; name: string; onClick: () => void }) {
  const shown = name.length > 24 ? `${name.slice(0, 23)}…` : name;
  const width = textWidth(shown) + 34;
  return (
    <g transform={`translate(${x},${y})`} {...asButton(`Goes back to ${name}`, onClick)}>
      <title>{`Goes back to ${name}`}</title>
      <rect y="-9" width={width} height="18" rx="9" fill="var(--sheet)" stroke="var(--edge)" strokeDasharray="3 2" />
      <text x="10" y="4" fontSize="11" fill="var(--ink)">
        ↩ {shown}
      </text>
    </g>
  );
}

function Nowhere({ x, y, failure }: { x: number; y: number; failure: boolean }) {
  const colour = failure ? "var(--ochre-ink)" : "var(--plum-ink)";
  return (
    <g transform={`translate(${x},${y})`}>
      <circle r="4" fill="var(--mist)" stroke={colour} strokeWidth="1.6" strokeDasharray="2 2" />
      <text x="9" y="4" fontSize="11" fontWeight="600" fill={colour}>
        {failure ? "failure rule" : "leads nowhere"}
      </text>
    </g>
  );
}

type LinesProps = Pick<Props, "arm" | "from" | "walked" | "grey">;

/** The strands of an arm: under everything else, so that no label is covered by one. */
export const TrailStrands = memo(function TrailStrands({ arm, from, walked, grey }: LinesProps) {
  const way = wayOf(arm, from);
  const strands = strandsOf(arm.fates, arm.volume);
  const thick = thickness(strands);
  const stub = arm.kind === "return" || arm.kind === "open";
  return (
    <g>
      {walked && (
        <path d={pathOf(way, 0)} fill="none" stroke="var(--lichen)" strokeWidth={thick + 12} strokeLinecap="round" />
      )}
      {stub ? (
        <path
          d={pathOf(way, 0)}
          fill="none"
          stroke={grey ? "var(--grey-trail)" : "var(--pine-70)"}
          strokeWidth="1.8"
          strokeDasharray="1.5 4"
          strokeLinecap="round"
        />
      ) : (
        strands.map((strand) => (
          <path
            key={strand.fate}
            d={pathOf(way, strand.offset)}
            fill="none"
            strokeWidth={strand.width}
            stroke={grey && !walked ? "var(--grey-trail)" : fateLooks[strand.fate]?.colour}
          />
        ))
      )}
    </g>
  );
});

/** The label of an arm, and what stands at its end if that is no stop. */
export const ArmLabel = memo(function ArmLabel({ arm, from, target, count, walked, grey, goTo }: Props) {
  const spot = labelSpot(arm, from, thickness(strandsOf(arm.fates, arm.volume)));
  const showLabel = arm.exit !== "next" && arm.exit !== "answered";
  return (
    <g>
      {showLabel && (
        <text
          x={spot.x}
          y={spot.y}
          fontSize="11.5"
          fontWeight="560"
          fill={grey && !walked ? "var(--slate)" : "var(--ink)"}
          stroke="var(--mist)"
          strokeWidth="3"
          paintOrder="stroke">
          {arm.label}
          {count > 0 && (
            <tspan fill="var(--slate-ink)" fontWeight="400">
              {" "}
              · {count}
            </tspan>
          )}
        </text>
      )}
      {arm.kind === "return" && target && (
        <Pill x={arm.x1} y={arm.y} name={target.stop.name} onClick={() => goTo(target.stop.id)} />
      )}
      {arm.kind === "open" && <Nowhere x={arm.x1} y={arm.y} failure={arm.failure} />}
    </g>
  );
});
