import { Button, Dialog, DialogActions, DialogContent, DialogTitle, FormControlLabel, Switch } from "@mui/material";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { api, data, words } from "../../api/client";
import { keys } from "../../api/keys";
import { useSession } from "../../frame/session";

/** What counts in all flows of the centre. */
export function AllFlows({ close }: { close: () => void }) {
  const { may } = useSession();
  const cache = useQueryClient();
  const rules = useQuery({ queryKey: keys.flowRules, queryFn: () => data(api.GET("/api/v1/flow-rules")) });
  const change = useMutation({
    mutationFn: (silence_ends: boolean) => data(api.PATCH("/api/v1/flow-rules", { body: { silence_ends } })),
    onSuccess: (kept) => {
      cache.setQueryData(keys.flowRules, kept);
      void cache.invalidateQueries({ queryKey: keys.of("flows") });
    },
  });
  const problem = rules.error ?? change.error;
  return (
    <Dialog open onClose={close} maxWidth="sm">
      <DialogTitle>What counts in all flows</DialogTitle>
      <DialogContent sx={{ display: "grid", gap: 1 }}>
        <FormControlLabel
          label="A call without a key ends by itself"
          control={
            <Switch
              checked={rules.data?.silence_ends ?? false}
              disabled={!rules.data || change.isPending || !may("change", "flows")}
              onChange={(_, ends) => change.mutate(ends)}
            />
          }
        />
        <span className="dim">
          A caller from whom a menu got no valid key after its last try, such as a robot that lingers, is let go without
          a word, and counts as ended. It holds wherever a menu says nothing itself about callers without a key;
          otherwise these meet their flow’s failure rule.
        </span>
        {problem && (
          <div role="alert" className="wrong">
            {words(problem)}
          </div>
        )}
      </DialogContent>
      <DialogActions>
        <Button onClick={close}>Close</Button>
      </DialogActions>
    </Dialog>
  );
}
