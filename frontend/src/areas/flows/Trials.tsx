import { Button } from "@mui/material";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useSnackbar } from "notistack";
import { api, data, type Definition, type Schemas, words } from "../../api/client";
import { keys } from "../../api/keys";
import { undoLast } from "../../api/resources";
import { clock } from "../../frame/format";
import { Failure, Glyph, Loading } from "../../frame/states";
import { endingWords } from "./endings";
import styles from "./flows.module.css";
import type { Setup } from "./phone/usePaper";

export type Outcome = Schemas["Outcome"];

/** Every saved trial of a flow, run on a definition. */
export function useTrials(id: string, definition: Definition | undefined) {
  return useQuery({
    queryKey: keys.of("flows", "trials", id, JSON.stringify(definition)),
    queryFn: () =>
      data(
        api.POST("/api/v1/flows/{id}/run-trials", {
          params: { path: { id } },
          body: { draft: definition as Definition },
        }),
      ),
    enabled: definition !== undefined,
  });
}

function useChanges(id: string, definition: Definition) {
  const cache = useQueryClient();
  const { enqueueSnackbar, closeSnackbar } = useSnackbar();
  const done = () => void cache.invalidateQueries({ queryKey: keys.of("flows", "trials", id) });
  const onError = (error: unknown) => {
    enqueueSnackbar(words(error), { variant: "error" });
  };
  const back = useMutation({ mutationFn: (trial: string) => undoLast(trial), onSuccess: done, onError });
  const remove = useMutation({
    mutationFn: (trial: string) => api.DELETE("/api/v1/trials/{id}", { params: { path: { id: trial } } }),
    onSuccess: (_, trial) => {
      done();
      enqueueSnackbar("The trial is deleted.", {
        action: (key) => (
          <Button
            color="inherit"
            onClick={() => {
              closeSnackbar(key);
              back.mutate(trial);
            }}>
            Undo
          </Button>
        ),
      });
    },
    onError,
  });
  const accept = useMutation({
    mutationFn: (trial: string) =>
      api.POST("/api/v1/trials/{id}", { params: { path: { id: trial } }, body: { draft: definition } }),
    onSuccess: () => {
      done();
      enqueueSnackbar("What happens now is what is expected.");
    },
    onError,
  });
  return { remove: remove.mutate, accept: accept.mutate };
}

interface Props {
  id: string;
  definition: Definition;
  mayChange: boolean;
  play?: (setup: Setup) => void;
}

/** The saved trial calls with their result on this draft. */
export function Trials({ id, definition, mayChange, play }: Props) {
  const list = useTrials(id, definition);
  const { remove, accept } = useChanges(id, definition);
  if (list.isPending) return <Loading what="the trials" />;
  if (list.isError) return <Failure error={list.error} retry={() => void list.refetch()} />;
  if (list.data.length === 0)
    return (
      <p className={`dim ${styles.nothing}`}>
        None yet. Try a call on paper and save it: it runs again before each publishing, and one that goes otherwise
        blocks it.
      </p>
    );
  return (
    <ul className={styles.findings} aria-label="Trials">
      {list.data.map((trial) => (
        <li key={trial.id} className={styles.trial}>
          <span className={styles.severity} style={{ color: trial.passed ? "var(--fern-ink)" : "var(--plum-ink)" }}>
            <Glyph name={trial.passed ? "flat" : "peak"} colour={trial.passed ? "var(--fern)" : "var(--plum)"} />{" "}
            {trial.passed ? "As expected" : "Otherwise"}
          </span>
          {play ? (
            <button className={styles.where} onClick={() => play(trial.setup as unknown as Setup)}>
              {trial.name}
            </button>
          ) : (
            <b>{trial.name}</b>
          )}
          <span>
            {trial.passed ? (
              <span className="dim">
                {endingWords[trial.ending] ?? trial.ending}, {clock(trial.seconds * 1000)}
              </span>
            ) : (
              trial.differences.join(" ")
            )}
          </span>
          <span className={styles.acts}>
            {mayChange && !trial.passed && (
              <Button variant="outlined" color="secondary" onClick={() => accept(trial.id)}>
                Expect this
              </Button>
            )}
            {mayChange && <Button onClick={() => remove(trial.id)}>Delete</Button>}
          </span>
        </li>
      ))}
    </ul>
  );
}
