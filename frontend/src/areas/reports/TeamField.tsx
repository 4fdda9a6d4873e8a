import { MenuItem, TextField } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { api, data } from "../../api/client";
import { keys } from "../../api/keys";
import type { Asked } from "./useAsked";

const MOST = { page_size: 500 };

/** Whose agents a report is about; all teams where none is chosen. */
export function TeamField({ asked, changed }: { asked: Asked; changed?: () => void }) {
  const teams = useQuery({
    queryKey: keys.list("teams", MOST),
    queryFn: () => data(api.GET("/api/v1/teams", { params: { query: MOST } })),
  });
  return (
    <TextField
      select
      size="small"
      label="Team"
      value={asked.get("team")}
      sx={{ width: 200 }}
      slotProps={{ select: { displayEmpty: true }, inputLabel: { shrink: true } }}
      onChange={(event) => {
        changed?.();
        asked.set({ team: event.target.value });
      }}>
      <MenuItem value="">All teams</MenuItem>
      {teams.data?.results.map((one) => (
        <MenuItem key={one.id} value={one.id}>
          {one.name}
        </MenuItem>
      ))}
    </TextField>
  );
}
