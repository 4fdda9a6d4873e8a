import { Autocomplete, Dialog, DialogContent, DialogTitle, TextField } from "@mui/material";
import type { Stop } from "../../api/client";
import styles from "./flows.module.css";
import { kindWord, stepForms, type StepKind } from "./kinds";
import { stopName } from "./sheet/TargetPicker";
import { StopGlyph } from "./trail/glyphs";

/** Find a stop by its words. */
export function FindStop({ stops, close, go }: { stops: Stop[]; close: () => void; go: (id: string) => void }) {
  return (
    <Dialog open disableRestoreFocus onClose={close} fullWidth maxWidth="xs">
      <DialogTitle>Find a stop</DialogTitle>
      <DialogContent>
        <Autocomplete
          open
          options={stops}
          getOptionLabel={(stop) => `${stopName(stop)} ${stop.sentence}`}
          onChange={(_, stop) => {
            if (stop) go(stop.id);
            close();
          }}
          renderInput={(params) => <TextField {...params} autoFocus placeholder="Any of its words" />}
          sx={{ minHeight: 320 }}
        />
      </DialogContent>
    </Dialog>
  );
}

/** Chooses the kind of a new stop: typed, or with the arrows; Enter takes the first. */
export function ChooseKind({
  after,
  kinds: offered,
  close,
  choose,
}: {
  after: string;
  kinds: StepKind[];
  close: () => void;
  choose: (kind: StepKind) => void;
}) {
  return (
    <Dialog open disableRestoreFocus onClose={close} fullWidth maxWidth="md">
      <DialogTitle>
        Add a stop
        {after && <span className="dim light"> after {after}</span>}
      </DialogTitle>
      <DialogContent>
        <Autocomplete
          open
          autoHighlight
          options={offered}
          groupBy={(kind) => stepForms[kind].group}
          getOptionLabel={(kind) => kindWord(kind)}
          filterOptions={(kinds, { inputValue }) => {
            const typed = inputValue.trim().toLowerCase();
            const begins = kinds.filter((kind) => typed && stepForms[kind].word.toLowerCase().startsWith(typed));
            return begins.length
              ? begins
              : kinds.filter((kind) =>
                  `${stepForms[kind].word} ${stepForms[kind].about}`.toLowerCase().includes(typed),
                );
          }}
          renderOption={({ key, ...props }, kind) => (
            <li key={key} {...props}>
              <svg width="22" height="18" viewBox="-9 -9 18 18" aria-hidden="true" className={styles.mark}>
                <StopGlyph kind={kind} />
              </svg>
              <b className={styles.kindWord}>{kindWord(kind)}</b>
              <span className="dim">{stepForms[kind].about}</span>
            </li>
          )}
          onChange={(_, kind) => {
            if (kind) choose(kind);
            close();
          }}
          renderGroup={({ key, group, children }) => (
            <li key={key} className={styles.kinds}>
              <div>{group}</div>
              <ul>{children}</ul>
            </li>
          )}
          slotProps={{ listbox: { className: styles.kindGroups } }}
          renderInput={(params) => <TextField {...params} autoFocus placeholder="What happens there?" />}
          sx={{ minHeight: 480 }}
        />
      </DialogContent>
    </Dialog>
  );
}

const helps: [string, string][] = [
  ["← → ↑ ↓", "walk the trail"],
  ["Enter", "edit the stop in the sheet"],
  ["A", "add a stop after this one; type its kind, Enter"],
  ["F", "add a key to a menu"],
  ["C", "copy the stop with all that follows it"],
  ["Ctrl C", "copy the stop by itself"],
  ["V, Ctrl V", "paste after this stop, in this flow or another; a way is pasted at a stop of its kind"],
  ["Del", "remove the stop; the trail heals"],
  ["Shift ← → ↑ ↓", "choose several stops; then C, Del or B"],
  ["B", "make a shared block of what is chosen"],
  ["-", "fold what follows a stop away, and open it again"],
  ["/", "find a stop"],
  ["[, ], 0", "draw the map smaller, larger, in full size; so does the wheel with Ctrl"],
  ["W, .", "all of the map; the chosen stop in the middle"],
  ["I", "about the whole flow, beside the map"],
  ["T", "open the telephone"],
  ["Enter, 1 … 9 * 0 #, H", "in the telephone: dial, press a key, hang up"],
  ["Ctrl Z", "undo"],
  ["Ctrl Shift Z", "redo"],
  ["Esc", "from the sheet back to the map; on the map, let go of the stop"],
  ["Ctrl K", "find anything"],
];

/** All keys of the editor. */
export function KeyHelp({ close }: { close: () => void }) {
  return (
    <Dialog open disableRestoreFocus onClose={close}>
      <DialogTitle>Keys of the trail</DialogTitle>
      <DialogContent>
        <div className={styles.help}>
          {helps.map(([key, what]) => (
            <span key={key} style={{ display: "contents" }}>
              <kbd>{key}</kbd>
              <span>{what}</span>
            </span>
          ))}
        </div>
      </DialogContent>
    </Dialog>
  );
}
