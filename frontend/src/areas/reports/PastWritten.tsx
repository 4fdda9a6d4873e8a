import { useQuery } from "@tanstack/react-query";
import { api, data } from "../../api/client";
import { keys } from "../../api/keys";

const FRESH_MS = 5_000,
  IDLE_MS = 60_000;

/** That days before today are still being written: until then reports know only some of them. */
export function PastWritten() {
  const past = useQuery({
    queryKey: keys.of("past-written"),
    queryFn: () => data(api.GET("/api/v1/reports/past")),
    refetchInterval: (query) => (query.state.data?.of ? FRESH_MS : IDLE_MS),
  });
  if (!past.data?.of) return null;
  return (
    <span className="dim nowrap" role="status">
      The days before today are being written: {past.data.written} of {past.data.of}
    </span>
  );
}
