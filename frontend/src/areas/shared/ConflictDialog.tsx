import { Button, Dialog, DialogActions, DialogContent, DialogTitle, Radio } from "@mui/material";
import { useState } from "react";
import type { Values } from "../../api/resources";
import type { Field } from "./fields";
import type { Conflict } from "./useItemForm";
import styles from "./shared.module.css";

function shown(value: unknown): string {
  if (value === null || value === undefined || value === "") return "nothing";
  if (Array.isArray(value)) return `${value.length} chosen`;
  return String(value);
}

/** Two people edited the same thing: both versions side by side, a choice for each field, nothing lost. */
export function ConflictDialog({
  conflict,
  fields,
  settle,
}: {
  conflict: Conflict;
  fields: Field[];
  settle: (chosen: Values) => void;
}) {
  const names = Object.keys(conflict.mine);
  const [mine, setMine] = useState<Record<string, boolean>>(() =>
    Object.fromEntries(names.map((name) => [name, true])),
  );
  const labelOf = (name: string) => fields.find((field) => field.name === name)?.label ?? name;
  const done = () => {
    settle(Object.fromEntries(names.filter((name) => mine[name]).map((name) => [name, conflict.mine[name]])));
  };
  return (
    <Dialog open maxWidth="md" fullWidth>
      <DialogTitle>{conflict.by} changed this while you were editing it</DialogTitle>
      <DialogContent>
        <p className="dim">Choose what counts for each field that you changed. Nothing is saved before you save.</p>
        <table className={styles.conflict}>
          <thead>
            <tr>
              <th align="left">Field</th>
              <th align="left">Yours</th>
              <th align="left">{conflict.by}’s</th>
            </tr>
          </thead>
          <tbody>
            {names.map((name) => (
              <tr key={name} className="ruled">
                <td>{labelOf(name)}</td>
                {[true, false].map((own) => (
                  <td key={String(own)}>
                    <label>
                      <Radio
                        size="small"
                        checked={mine[name] === own}
                        onChange={() => setMine({ ...mine, [name]: own })}
                      />
                      {shown(own ? conflict.mine[name] : conflict.theirs[name])}
                    </label>
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      </DialogContent>
      <DialogActions>
        <Button variant="contained" onClick={done}>
          Go on editing with these
        </Button>
      </DialogActions>
    </Dialog>
  );
}
