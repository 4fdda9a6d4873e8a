import { Button, TextField } from "@mui/material";
import { useState } from "react";
import { lengths } from "../../../api/lengths";
import styles from "./phone.module.css";

/** What the caller says to the flow: Enter says it. */
export function Saying({ listens, say }: { listens: boolean; say: (words: string) => void }) {
  const [said, setSaid] = useState("");
  const ready = listens && said.trim() !== "";
  return (
    <form
      className={styles.says}
      onSubmit={(event) => {
        event.preventDefault();
        if (ready) {
          say(said.trim());
          setSaid("");
        }
      }}>
      <TextField
        label="The caller says"
        value={said}
        disabled={!listens}
        placeholder={listens ? "" : "nothing listens now"}
        slotProps={{ htmlInput: { maxLength: lengths.Say.words }, inputLabel: { shrink: true } }}
        onChange={(event) => setSaid(event.target.value)}
      />
      <Button type="submit" variant="outlined" disabled={!ready}>
        Say
      </Button>
    </form>
  );
}
