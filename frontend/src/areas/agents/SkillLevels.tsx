import { Button, IconButton, MenuItem, TextField } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { keys } from "../../api/keys";
import { skills } from "../../api/resources";
import type { OwnProps } from "../shared/fields";
import styles from "./agents.module.css";

const LEVELS = [1, 2, 3, 4, 5, 6, 7, 8, 9, 10];

/** Every skill of the centre; there are few. */
export function useSkills() {
  const query = { page_size: 500 };
  const list = useQuery({ queryKey: keys.list("skills", query), queryFn: () => skills.list(query) });
  return list.data?.results ?? [];
}

export interface Row {
  skill: string;
  level: number;
}

interface Props {
  label: string;
  rows: Row[];
  disabled: boolean;
  error?: string;
  word: string;
  change: (rows: Row[]) => void;
}

/** Skills, each with a level. */
export function SkillRows({ label, rows, disabled, error, word, change }: Props) {
  const known = useSkills();
  const free = known.filter((skill) => !rows.some((row) => row.skill === skill.id));
  const set = (at: number, changed: Partial<Row>) => {
    change(rows.map((row, i) => (i === at ? { ...row, ...changed } : row)));
  };
  return (
    <div role="group" aria-label={label} className="lines">
      <span className="caption">{label}</span>
      {rows.map((row, at) => (
        <div key={row.skill} className={styles.level}>
          <TextField
            select
            label="Skill"
            value={row.skill}
            disabled={disabled}
            onChange={(event) => set(at, { skill: event.target.value })}>
            {known
              .filter((skill) => skill.id === row.skill || free.includes(skill))
              .map((skill) => (
                <MenuItem key={skill.id} value={skill.id}>
                  {skill.name}
                </MenuItem>
              ))}
          </TextField>
          <TextField
            select
            label={word}
            value={row.level}
            disabled={disabled}
            onChange={(event) => set(at, { level: Number(event.target.value) })}>
            {LEVELS.map((level) => (
              <MenuItem key={level} value={level}>
                {level}
              </MenuItem>
            ))}
          </TextField>
          <IconButton
            size="small"
            disabled={disabled}
            aria-label="Remove this skill"
            onClick={() => change(rows.filter((_, i) => i !== at))}>
            ✕
          </IconButton>
        </div>
      ))}
      {!disabled && free[0] && (
        <div>
          <Button variant="outlined" onClick={() => change([...rows, { skill: free[0]?.id ?? "", level: 5 }])}>
            Add a skill
          </Button>
        </div>
      )}
      {known.length === 0 && <span className="dim">No skills are set up yet: they are under Talk.</span>}
      {error && (
        <div role="alert" className="wrong">
          {error}
        </div>
      )}
    </div>
  );
}

/** What an agent can do: levels by skill. */
export function SkillLevels({ value, error, disabled, change }: OwnProps) {
  const levels = (value ?? {}) as Record<string, number>;
  const rows = Object.entries(levels).map(([skill, level]) => ({ skill, level }));
  return (
    <SkillRows
      label="Skills"
      word="Level"
      rows={rows}
      disabled={disabled}
      error={error}
      change={(next) => change(Object.fromEntries(next.map((row) => [row.skill, row.level])))}
    />
  );
}

/** What callers of a queue need. */
export function AsksField({ value, error, disabled, change }: OwnProps) {
  const asks = (value ?? []) as { skill: string; least: number }[];
  const rows = asks.map(({ skill, least }) => ({ skill, level: least }));
  return (
    <SkillRows
      label="Callers need"
      word="At least"
      rows={rows}
      disabled={disabled}
      error={error}
      change={(next) => change(next.map((row) => ({ skill: row.skill, least: row.level })))}
    />
  );
}

const spoken = [
  ["en", "English"],
  ["cy", "Welsh"],
] as const;

/** The languages that an agent speaks. */
export function LanguagesField({ value, disabled, change }: OwnProps) {
  return (
    <TextField
      select
      label="Languages"
      value={(value as string[] | undefined) ?? []}
      disabled={disabled}
      slotProps={{ select: { multiple: true } }}
      onChange={(event) => change(event.target.value)}>
      {spoken.map(([code, name]) => (
        <MenuItem key={code} value={code}>
          {name}
        </MenuItem>
      ))}
    </TextField>
  );
}

/** Skills with their levels in a row of a list, the best first. */
export function SkillNames({ skills: levels }: { skills: Record<string, number> }) {
  const known = new Map(useSkills().map((skill) => [skill.id, skill.name]));
  const told = Object.entries(levels)
    .toSorted(([, a], [, b]) => b - a)
    .map(([skill, level]) => `${known.get(skill) ?? "…"} ${level}`)
    .join(", ");
  return told ? <span title={told}>{told}</span> : <span className="dim">none</span>;
}
