import {
  Button,
  Checkbox,
  Dialog,
  DialogActions,
  DialogContent,
  DialogTitle,
  MenuItem,
  TextField,
} from "@mui/material";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useSnackbar } from "notistack";
import { type ReactNode, useState } from "react";
import { api, data, words } from "../../api/client";
import { keys } from "../../api/keys";
import { teams } from "../../api/resources";
import { chosenOf } from "../shared/chosen";
import { ThingPicker } from "../shared/ThingPicker";
import { LanguagesField, type Row, SkillRows, useSkills } from "./SkillLevels";
import styles from "./agents.module.css";

/** One thing that is changed only where it is ticked. */
function Part({
  name,
  on,
  turn,
  children,
}: {
  name: string;
  on: boolean;
  turn: (on: boolean) => void;
  children: ReactNode;
}) {
  return (
    <div className={styles.ticked}>
      <Checkbox
        size="small"
        checked={on}
        onChange={(_, now) => turn(now)}
        slotProps={{ input: { "aria-label": `Change ${name}` } }}
      />
      <div className={styles.wish}>{children}</div>
    </div>
  );
}

/** Several agents changed alike, all or none. */
export function ChangeSeveral({ ids, done }: { ids: string[]; done: () => void }) {
  const cache = useQueryClient();
  const { enqueueSnackbar } = useSnackbar();
  const known = useSkills();
  const [open, setOpen] = useState(false);
  const [on, setOn] = useState<Record<string, boolean>>({});
  const [team, setTeam] = useState<string | null>(null);
  const [site, setSite] = useState("");
  const [languages, setLanguages] = useState<string[]>(["en"]);
  const [levels, setLevels] = useState<Row[]>([]);
  const [gone, setGone] = useState<string[]>([]);
  const change = useMutation({
    mutationFn: () => {
      const set = Object.fromEntries(levels.map((row) => [row.skill, row.level]));
      const taken = Object.fromEntries(gone.map((skill) => [skill, null]));
      const body = {
        ids,
        ...(on.team && { team }),
        ...(on.site && { site }),
        ...(on.languages && { languages }),
        ...((on.skills || on.gone) && { levels: { ...(on.gone && taken), ...(on.skills && set) } }),
      };
      return data(api.POST("/api/v1/agents/bulk", { body: body as never }));
    },
    onSuccess: ({ changed }) => {
      void cache.invalidateQueries({ queryKey: keys.all("agents") });
      enqueueSnackbar(`${changed} agents are changed. The change log can take each back.`);
      setOpen(false);
      done();
    },
  });
  const part = (name: string) => ({
    name,
    on: on[name] ?? false,
    turn: (now: boolean) => {
      setOn({ ...on, [name]: now });
    },
  });
  return (
    <>
      <Button
        variant="outlined"
        onClick={() => {
          change.reset();
          setOpen(true);
        }}>
        Change {ids.length}…
      </Button>
      <Dialog open={open} onClose={() => setOpen(false)} fullWidth maxWidth="sm">
        <DialogTitle>
          Change {ids.length} {ids.length === 1 ? "agent" : "agents"} alike
        </DialogTitle>
        <DialogContent sx={{ display: "grid", gap: 2 }}>
          <span className="dim">Only what is ticked changes; all of it or nothing.</span>
          <Part {...part("team")}>
            <ThingPicker
              resource={teams}
              nameOf={(one) => one.name}
              disabled={!on.team}
              field={{ label: "Team", placeholder: "No team" }}
              value={team}
              choose={setTeam}
            />
          </Part>
          <Part {...part("site")}>
            <TextField
              fullWidth
              label="Site"
              value={site}
              disabled={!on.site}
              onChange={(event) => setSite(event.target.value)}
            />
          </Part>
          <Part {...part("languages")}>
            <LanguagesField
              value={languages}
              disabled={!on.languages}
              values={{}}
              change={(value) => setLanguages(value as string[])}
            />
          </Part>
          <Part {...part("skills")}>
            <SkillRows
              label="Skills that they get, at these levels"
              word="Level"
              rows={levels}
              disabled={!on.skills}
              change={setLevels}
            />
          </Part>
          <Part {...part("gone")}>
            <TextField
              select
              fullWidth
              label="Skills that they lose"
              value={gone}
              disabled={!on.gone}
              slotProps={{ select: { multiple: true } }}
              onChange={(event) => setGone(chosenOf(event.target.value))}>
              {known.map((skill) => (
                <MenuItem key={skill.id} value={skill.id}>
                  {skill.name}
                </MenuItem>
              ))}
            </TextField>
          </Part>
          {change.isError && (
            <div role="alert" className="wrong">
              {words(change.error)}
            </div>
          )}
        </DialogContent>
        <DialogActions>
          <Button onClick={() => setOpen(false)}>Close</Button>
          <Button
            variant="contained"
            disabled={change.isPending || !Object.values(on).some(Boolean)}
            onClick={() => change.mutate()}>
            {change.isPending ? "Saving…" : "Change them"}
          </Button>
        </DialogActions>
      </Dialog>
    </>
  );
}
