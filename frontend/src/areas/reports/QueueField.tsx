import { MenuItem, TextField } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { api, data } from "../../api/client";
import { keys } from "../../api/keys";
import type { Asked } from "./useAsked";

const MOST = { page_size: 500 };

/** Which queue a report is about; all where none is chosen. */
export function QueueField({ asked, changed }: { asked: Asked; changed?: () => void }) {
  const queues = useQuery({
    queryKey: keys.list("queues", MOST),
    queryFn: () => data(api.GET("/api/v1/queues", { params: { query: MOST } })),
  });
  const chosen = asked.get("queues");
  return (
    <TextField
      select
      size="small"
      label="Queue"
      value={chosen}
      sx={{ width: 180 }}
      slotProps={{ select: { displayEmpty: true }, inputLabel: { shrink: true } }}
      onChange={(event) => {
        changed?.();
        asked.set({ queues: event.target.value });
      }}>
      <MenuItem value="">All queues</MenuItem>
      {queues.data?.results.map((one) => (
        <MenuItem key={one.id} value={one.id}>
          {one.name}
        </MenuItem>
      ))}
      {chosen && queues.data && !queues.data.results.some((one) => one.id === chosen) && (
        <MenuItem value={chosen}>A queue that is gone</MenuItem>
      )}
    </TextField>
  );
}
