import { Autocomplete, Dialog, DialogContent, DialogTitle, TextField } from "@mui/material";
import type { Stop } from "../../api/client";
import styles from "./flows.module.css";
import { stopName } from "./sheet/TargetPicker";

/** Find a stop by its words. */
export function FindStop({ stops, close, go }: { stops: Stop[]; close: () => void; go: (id: string) => void }) {
  return (
    <Dialog open onClose={close} fullWidth maxWidth="xs">
      <DialogTitle>Find a stop</DialogTitle>
      <DialogContent>
        <Autocomplete
          open options={stops} getOptionLabel={(stop) => `${stopName(stop)} ${stop.sentence}`}
          onChange={(_, stop) => { if (stop) go(stop.id); close(); }}
          renderInput={(params) => <TextField {...params} autoFocus placeholder="Any of its words" />}
          sx={{ minHeight: 320 }}
        />
      </DialogContent>
    </Dialog>
  );
}

const helps: [string, string][] = [
  ["← → ↑ ↓", "walk the trail"], ["Enter", "edit the stop in the sheet"], ["A", "add a stop after this one"],
  ["F", "add a key to a menu"], ["Del", "remove the stop; the trail heals"], ["/", "find a stop"],
  ["T", "open the telephone"], ["Enter, 1 … 9 * 0 #, H", "in the telephone: dial, press a key, hang up"],
  ["Ctrl Z", "undo"], ["Ctrl Shift Z", "redo"], ["Esc", "from the sheet back to the map; on the map, let go of the stop"], ["Ctrl K", "find anything"],
];

/** All keys of the editor. */
export function KeyHelp({ close }: { close: () => void }) {
  return (
    <Dialog open onClose={close}>
      <DialogTitle>Keys of the trail</DialogTitle>
      <DialogContent>
        <div className={styles.help}>{helps.map(([key, what]) => <span key={key} style={{ display: "contents" }}><kbd>{key}</kbd><span>{what}</span></span>)}</div>
      </DialogContent>
    </Dialog>
  );
}
