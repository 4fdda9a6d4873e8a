import { Button } from "@mui/material";
import { percent } from "../../../frame/format";
import styles from "./trail.module.css";
import type { Zoom } from "./useZoom";

const small = { minWidth: 28, px: 0.75, py: 0 };

/** How large the map is drawn, and the ways to another size. */
export function ZoomBar({
  zoom,
  fit,
  centre,
  fits,
}: {
  zoom: Zoom;
  fit: () => void;
  centre: (() => void) | null;
  fits: boolean;
}) {
  return (
    <span className={styles.zoom} role="group" aria-label="Size of the map">
      <Button size="small" sx={small} aria-label="Smaller" title="Smaller ([)" onClick={zoom.further}>
        −
      </Button>
      <Button size="small" sx={small} aria-label="Full size" title="Full size (0)" onClick={() => zoom.set(1)}>
        {percent(zoom.scale, 0)}
      </Button>
      <Button size="small" sx={small} aria-label="Larger" title="Larger (])" onClick={zoom.closer}>
        +
      </Button>
      <Button size="small" sx={small} title="All of it (W)" disabled={fits} onClick={fit}>
        Fit
      </Button>
      <Button
        size="small"
        sx={small}
        title="The chosen stop in the middle (.)"
        disabled={!centre}
        onClick={centre ?? undefined}>
        Centre
      </Button>
    </span>
  );
}
