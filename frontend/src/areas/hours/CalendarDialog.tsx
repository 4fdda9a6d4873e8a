import { Button, Dialog, DialogActions, DialogContent, DialogTitle } from "@mui/material";
import { useMutation } from "@tanstack/react-query";
import { readCalendar, words as errorWords } from "../../api/client";
import { dayOf } from "../../frame/format";
import type { HoursException } from "./dialogs";
import { words } from "./spans";
import styles from "./hours.module.css";

const keyOf = (exception: HoursException) => `${exception.day} ${String(exception.yearly ?? false)}`;

/** What taking an exception in would do to those that are there. */
function effect(exception: HoursException, list: HoursException[]): string {
  const there = list.find((old) => keyOf(old) === keyOf(exception));
  if (!there) return "new";
  const same = there.name === exception.name && words(there.spans) === words(exception.spans);
  return same ? "the same" : `replaces ${there.name}, ${words(there.spans)}`;
}

interface Props {
  id: string;
  list: HoursException[];
  take: (list: HoursException[]) => void;
  close: () => void;
}

/** An iCalendar file: looked at first, taken in as exceptions, saved with the hours. */
export function CalendarDialog({ id, list, take, close }: Props) {
  const read = useMutation({ mutationFn: (file: File) => readCalendar(id, file) });
  const found = read.data?.exceptions ?? [];
  const changing = found.filter((exception) => effect(exception, list) !== "the same");
  const takeAll = () => {
    const coming = new Set(changing.map(keyOf));
    take([...list.filter((old) => !coming.has(keyOf(old))), ...changing]);
  };
  return (
    <Dialog open onClose={close} fullWidth maxWidth="sm">
      <DialogTitle>iCalendar</DialogTitle>
      <DialogContent>
        <div className={styles.choices}>
          <Button variant="outlined" component="label" disabled={read.isPending}>
            {read.isPending ? "Reading…" : "Choose an .ics file…"}
            <input
              type="file"
              hidden
              accept=".ics,text/calendar"
              aria-label="Choose an .ics file"
              onChange={(event) => {
                const file = event.target.files?.[0];
                event.target.value = "";
                if (file) read.mutate(file);
              }}
            />
          </Button>
          <Button href={`/api/v1/hours/${id}/calendar`}>Export what is saved</Button>
        </div>
        {read.isError && (
          <div role="alert" className="wrong">
            {errorWords(read.error)}
          </div>
        )}
        {read.data?.left_out.map((said) => (
          <div key={said} role="status" className={styles.warned}>
            Left out: {said}
          </div>
        ))}
        {read.data && found.length === 0 && <div className="dim">The file holds no events.</div>}
        <table className={styles.found}>
          <tbody>
            {found.map((exception) => (
              <tr key={keyOf(exception)} className="ruled">
                <td>
                  {dayOf(exception.day, !exception.yearly)}
                  {exception.yearly ? ", every year" : ""}
                </td>
                <td>
                  <b>{exception.name}</b>
                </td>
                <td>{words(exception.spans)}</td>
                <td className="dim">{effect(exception, list)}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </DialogContent>
      <DialogActions>
        <Button onClick={close}>Cancel</Button>
        <Button variant="contained" disabled={changing.length === 0} onClick={takeAll}>
          Take in {changing.length}
        </Button>
      </DialogActions>
    </Dialog>
  );
}
