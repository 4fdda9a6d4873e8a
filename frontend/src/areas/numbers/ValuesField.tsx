import { useQuery } from "@tanstack/react-query";
import { words } from "../../api/client";
import { keys } from "../../api/keys";
import { flows } from "../../api/resources";
import type { OwnProps } from "../shared/fields";
import { InputValues } from "./InputValue";

/** What the number hands to the flow that answers it. */
export function ValuesField({ value, error, disabled, values, change }: OwnProps) {
  const flow = (values.flow as string | null | undefined) ?? null;
  const found = useQuery({
    queryKey: keys.one("flows", flow ?? ""),
    queryFn: () => flows.get(flow ?? ""),
    enabled: flow !== null,
  });
  const inputs = found.data?.inputs ?? [];
  if (flow === null || (found.data && inputs.length === 0))
    return error ? (
      <div role="alert" className="wrong">
        {error}
      </div>
    ) : null;
  return (
    <section aria-label="Values for the flow" className="spaced">
      <h2>Values for the flow</h2>
      {found.isError && <div role="alert">{words(found.error)}</div>}
      <InputValues
        inputs={inputs}
        values={(value as Record<string, unknown> | undefined) ?? {}}
        disabled={disabled}
        change={change}
      />
      {error && (
        <div role="alert" className="wrong">
          {error}
        </div>
      )}
    </section>
  );
}
