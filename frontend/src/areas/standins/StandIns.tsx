import {
  Button,
  Dialog,
  DialogActions,
  DialogContent,
  DialogTitle,
  FormControlLabel,
  Switch,
  TextField,
  ToggleButton,
  ToggleButtonGroup,
} from "@mui/material";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useSnackbar } from "notistack";
import { useState } from "react";
import { api, data, Problem, type Schemas, words } from "../../api/client";
import { keys } from "../../api/keys";
import { moment, timeOfDay } from "../../frame/format";
import { useSession } from "../../frame/session";
import { Failure, Loading } from "../../frame/states";
import { useNow } from "../../frame/useLive";
import shared from "../shared/shared.module.css";
import { changedOf, type People } from "./people";
import { PeopleFields } from "./PeopleFields";
import { ProfileEditor } from "./ProfileEditor";
import styles from "./standins.module.css";

type Settings = Schemas["StandIns"];

const NOBODY: People = {};

interface EditorProps {
  /** What counts at once, above all else. */
  top: React.ReactNode;
  settings: Settings;
  disabled: boolean;
  /** What the server did not take, by field. */
  wrong: Record<string, string[]>;
  save: (changed: Partial<Settings>) => void;
}

interface NumberTextProps {
  label: string;
  /** As it is typed. */
  value: string;
  disabled: boolean;
  help: string;
  limits: { min: number; max?: number; step?: number | "any" };
  change: (value: string) => void;
}

/** A figure of all of them, as it is typed. */
function NumberText({ label, value, disabled, help, limits, change }: NumberTextProps) {
  return (
    <TextField
      label={label}
      type="number"
      value={value}
      disabled={disabled}
      helperText={help}
      slotProps={{ htmlInput: limits }}
      onChange={(event) => change(event.target.value)}
    />
  );
}

/** How many there are and what they are like; nothing counts until they begin anew. */
function Editor({ top, settings, disabled, wrong, save }: EditorProps) {
  const [load, setLoad] = useState(String(settings.load));
  const [agents, setAgents] = useState(String(settings.agents));
  const [seed, setSeed] = useState(String(settings.seed));
  const [misheard, setMisheard] = useState(String(settings.misheard));
  const known = settings.people ?? NOBODY;
  const [people, setPeople] = useState<People>(known);
  const { enqueueSnackbar } = useSnackbar();
  const recorded = useMutation({
    mutationFn: () => data(api.GET("/api/v1/stand-ins/recorded")),
    onSuccess: (found) => {
      setPeople({ ...people, ...found.people });
      enqueueSnackbar("Taken from the last 28 days. Nothing counts before you begin anew.");
    },
    onError: (error) => {
      enqueueSnackbar(words(error), { variant: "error" });
    },
  });
  const changed =
    people !== known ||
    misheard !== String(settings.misheard) ||
    load !== String(settings.load) ||
    agents !== String(settings.agents) ||
    seed !== String(settings.seed);
  const submit = (event: React.SyntheticEvent) => {
    event.preventDefault();
    save({
      load: Number(load),
      agents: Number(agents),
      seed: Number(seed),
      misheard: Number(misheard),
      ...(people === known ? {} : { people: changedOf(known, people) }),
    });
  };
  return (
    <form className={styles.page} onSubmit={submit}>
      <div>
        {top}
        <div className={styles.group}>
          <NumberText
            label="Load"
            value={load}
            disabled={disabled}
            help="1 is as the profile says; 0 to 20"
            limits={{ min: 0, max: 20, step: "any" }}
            change={setLoad}
          />
          <NumberText
            label="Agents at work"
            value={agents}
            disabled={disabled}
            help="chosen by the seed; whoever works at one of their desks takes that agent over"
            limits={{ min: 0, max: 1000 }}
            change={setAgents}
          />
          <NumberText
            label="Seed"
            value={seed}
            disabled={disabled}
            help="the same seed makes the same people"
            limits={{ min: 1 }}
            change={setSeed}
          />
          <NumberText
            label="Not understood"
            value={misheard}
            disabled={disabled}
            help="of a hundred things that callers say where a stop listens for words"
            limits={{ min: 0, max: 100 }}
            change={setMisheard}
          />
        </div>
        {!disabled && (
          <div className={styles.group}>
            <div className={styles.tools}>
              <Button type="submit" variant="contained" disabled={!changed}>
                Begin anew with these
              </Button>
              <Button onClick={() => save({ people: null })}>People as usual</Button>
              <Button
                disabled={recorded.isPending}
                onClick={() => recorded.mutate()}
                title="Arrivals, talk, wrap-up, patience and shares of the last 28 days; nothing counts before you begin anew">
                People as recorded
              </Button>
            </div>
          </div>
        )}
      </div>
      <div>
        <ProfileEditor
          profile={people.profile ?? []}
          moments={people.moments ?? []}
          comeAt={(moments) => setPeople({ ...people, moments })}
          load={Number(load) || 0}
          disabled={disabled}
          change={(profile) => setPeople({ ...people, profile })}
        />
        <PeopleFields people={people} disabled={disabled} wrong={wrong} change={setPeople} />
      </div>
    </form>
  );
}

const speeds = [1, 2, 5, 10, 30, 60] as const;
type Speed = (typeof speeds)[number];

/** How fast the site's clock runs: everything by it, real participants too. */
function Clock({ settings, disabled, set }: { settings: Settings; disabled: boolean; set: (speed: Speed) => void }) {
  const now = useNow(250);
  const { session } = useSession();
  return (
    <div className={styles.settings}>
      <span className="caption">
        The site’s clock{" "}
        <span className="num">
          {moment(now, session.time_zone).split(",")[0]}, {timeOfDay(now, session.time_zone)}
        </span>
      </span>
      <ToggleButtonGroup
        exclusive
        size="small"
        value={settings.speed}
        disabled={disabled}
        aria-label="Speed of the clock"
        onChange={(_, speed: Speed | null) => {
          if (speed) set(speed);
        }}>
        {speeds.map((speed) => (
          <ToggleButton key={speed} value={speed}>
            {speed}×
          </ToggleButton>
        ))}
      </ToggleButtonGroup>
      <span className="dim">A quicker clock gets ahead of the wall’s and stays ahead, until the site is reset.</span>
    </div>
  );
}

/** Starting over: no contacts, no figures, and the wall's clock. */
function Reset() {
  const cache = useQueryClient();
  const { enqueueSnackbar } = useSnackbar();
  const [asking, setAsking] = useState(false);
  const reset = useMutation({
    mutationFn: () => data(api.POST("/api/v1/stand-ins/reset")),
    onSuccess: (settings) => {
      cache.setQueryData(keys.of("stand-ins"), settings);
      setAsking(false);
      enqueueSnackbar("Everything begins anew.");
    },
  });
  return (
    <div className={styles.last}>
      <Button color="error" onClick={() => setAsking(true)}>
        Reset the site…
      </Button>
      <Dialog open={asking} onClose={() => setAsking(false)} maxWidth="sm">
        <DialogTitle>Begin anew?</DialogTitle>
        <DialogContent>
          Every contact that is under way ends, all contacts, callbacks and figures of this site are deleted, real ones
          too, everybody is signed out, and the clock is the wall’s again. Settings and messages stay. This cannot be
          undone.
          {reset.isError && (
            <p role="alert" className="wrong">
              {words(reset.error)}
            </p>
          )}
        </DialogContent>
        <DialogActions>
          <Button onClick={() => setAsking(false)}>Keep everything</Button>
          <Button color="error" variant="contained" disabled={reset.isPending} onClick={() => reset.mutate()}>
            Begin anew
          </Button>
        </DialogActions>
      </Dialog>
    </div>
  );
}

/** Simulated callers and agents, for trying a set-up: switched on and off here. */
export default function StandIns() {
  const { may } = useSession();
  const cache = useQueryClient();
  const { enqueueSnackbar } = useSnackbar();
  const mayChange = may("change", "stand_ins");
  const found = useQuery({ queryKey: keys.of("stand-ins"), queryFn: () => data(api.GET("/api/v1/stand-ins")) });
  const change = useMutation({
    mutationFn: (changed: Partial<Settings>) => data(api.PATCH("/api/v1/stand-ins", { body: changed })),
    // What is being read would show again what it was.
    onMutate: () => cache.cancelQueries({ queryKey: keys.of("stand-ins"), exact: true }),
    onSuccess: (settings) => {
      cache.setQueryData(keys.of("stand-ins"), settings);
      enqueueSnackbar(settings.on ? "The stand-ins are at work." : "The stand-ins have gone home.");
    },
    onError: (error) => {
      enqueueSnackbar(words(error), { variant: "error" });
    },
  });
  if (found.isError) return <Failure error={found.error} retry={() => void found.refetch()} />;
  if (!found.data) return <Loading what="the stand-ins" />;
  const settings = found.data;
  const top = (
    <>
      <div className="inset">
        <FormControlLabel
          control={
            <Switch
              checked={settings.on ?? false}
              disabled={!mayChange || change.isPending}
              onChange={(_, on) => change.mutate({ on })}
            />
          }
          label={settings.on ? "At work" : "At home"}
        />
      </div>
      <Clock settings={settings} disabled={!mayChange || change.isPending} set={(speed) => change.mutate({ speed })} />
      <div className="inset">
        <FormControlLabel
          control={
            <Switch
              checked={settings.fax ?? true}
              disabled={!mayChange || change.isPending}
              onChange={(_, fax) => change.mutate({ fax })}
            />
          }
          label="Some callers are fax machines: those whose numbers end in 99"
        />
      </div>
    </>
  );
  return (
    <section aria-label="Stand-ins">
      <div className={shared.head}>
        <h1>Stand-ins</h1>
        <span className="dim">
          simulated callers and agents; they use the exchange as everybody does, and count in the figures
        </span>
      </div>
      <Editor
        top={top}
        key={JSON.stringify({ ...settings, clock_ms: 0 })}
        settings={settings}
        disabled={!mayChange || change.isPending}
        wrong={change.error instanceof Problem ? change.error.fields : {}}
        save={(changed) => change.mutate(changed)}
      />
      {mayChange && <Reset />}
    </section>
  );
}
