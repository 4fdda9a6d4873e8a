import { Button } from "@mui/material";
import type { Stop } from "../../api/client";
import shared from "../shared/shared.module.css";

interface Props {
  stops: Stop[];
  chosen: string[];
  mayChange: boolean;
  copy: () => void;
  remove: () => void;
  block: () => void;
}

/** In place of one stop's sheet, while several are chosen. */
export function Chosen({ stops, chosen, mayChange, copy, remove, block }: Props) {
  return (
    <div className={shared.sheet}>
      <div className={shared.sheetHead}>
        <h1>{chosen.length} stops chosen</h1>
      </div>
      <div className={shared.fields}>
        <ul className="listed">
          {chosen.map((id) => (
            <li key={id}>{stops.find((stop) => stop.id === id)?.name ?? id}</li>
          ))}
        </ul>
        {mayChange && (
          <>
            <Button variant="contained" onClick={block}>
              Make a shared block… <kbd>B</kbd>
            </Button>
            <Button variant="outlined" onClick={copy}>
              Copy them <kbd>C</kbd>
            </Button>
            <Button variant="outlined" color="error" onClick={remove}>
              Remove them <kbd>Del</kbd>
            </Button>
          </>
        )}
        <span className="dim">Shift and a click, or Shift and an arrow key, chooses one more.</span>
      </div>
    </div>
  );
}
