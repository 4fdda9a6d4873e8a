import { useQuery } from "@tanstack/react-query";
import { api, data, type Schemas } from "../../api/client";
import { keys } from "../../api/keys";

/** Every figure that rows of something can have; undefined until they are known. */
export function useMeasures(of: Schemas["Measure"]["of"]): Schemas["Measure"][] | undefined {
  const measures = useQuery({
    queryKey: keys.all("measures"),
    queryFn: () => data(api.GET("/api/v1/reports/measures")),
    staleTime: Infinity,
  });
  return measures.data?.filter((one) => one.of === of);
}

/** The figures that can be chosen as columns. A queue's level by its own formula stands beside the measures, which are by one formula each. */
export function choices(of: Schemas["Measure"]["of"], measures: Schemas["Measure"][]): { key: string; name: string }[] {
  return of === "queues" ? [{ key: "level", name: "Service level, own formula" }, ...measures] : measures;
}
