import { ToggleButton, ToggleButtonGroup } from "@mui/material";

export type Where = "exchange" | "paper";

/** Whether a trial runs on the exchange or on paper; not to be changed while it runs. */
export function WhereTried({ where, live, choose }: { where: Where; live: boolean; choose: (where: Where) => void }) {
  return (
    <ToggleButtonGroup
      size="small"
      exclusive
      fullWidth
      value={where}
      disabled={live}
      sx={{ px: 2, pt: 1 }}
      onChange={(_, next: Where | null) => {
        if (next) choose(next);
      }}>
      <ToggleButton value="exchange" sx={{ py: 0.25 }}>
        On the exchange
      </ToggleButton>
      <ToggleButton value="paper" sx={{ py: 0.25 }}>
        On paper
      </ToggleButton>
    </ToggleButtonGroup>
  );
}
