import { Autocomplete, TextField, type TextFieldProps } from "@mui/material";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useDeferredValue, useState } from "react";
import { keys } from "../../api/keys";
import type { ConfigItem, Resource } from "../../api/resources";
import { useCreating } from "./useCreating";

const SHOWN = 30;

/** Things that fit what was typed, found by the server, and those that are chosen already. */
export function useThings<T extends ConfigItem>(resource: Resource<T>, text: string, chosen: string[]) {
  const search = useDeferredValue(text.trim());
  const query = { ...resource.always, page_size: SHOWN, ...(search && { search }) };
  const list = useQuery({
    queryKey: keys.list(resource.what, query),
    queryFn: () => resource.list(query),
    placeholderData: keepPreviousData,
  });
  const found = list.data?.results ?? [];
  const missing = chosen.filter((id) => !found.some((item) => item.id === id)).sort();
  const named = { ids: missing.join(","), page_size: 500 };
  const others = useQuery({
    queryKey: keys.list(resource.what, named),
    queryFn: () => resource.list(named),
    enabled: missing.length > 0,
    placeholderData: keepPreviousData,
  });
  const known = new Map([...(others.data?.results ?? []), ...found].map((item) => [item.id, item]));
  return { found, known, pending: list.isPending };
}

interface Shared<T extends ConfigItem> {
  resource: Resource<T>;
  nameOf: (item: T) => string;
  disabled: boolean;
  field: Pick<TextFieldProps, "label" | "error" | "helperText" | "placeholder" | "required">;
}

function options<T extends ConfigItem>(things: ReturnType<typeof useThings<T>>, nameOf: (item: T) => string) {
  const labelOf = (id: string) => {
    const item = things.known.get(id);
    return item ? nameOf(item) : "…";
  };
  const renderOption = ({ key, ...props }: React.HTMLAttributes<HTMLLIElement> & { key: React.Key }, id: string) => (
    <li key={key} {...props}>
      <span>
        {labelOf(id)}
        {things.known.get(id)?.description && (
          <>
            <br />
            <span className="dim">{things.known.get(id)?.description}</span>
          </>
        )}
      </span>
    </li>
  );
  return {
    renderOption,
    options: things.found.map((item) => item.id),
    getOptionLabel: labelOf,
    filterOptions: (all: string[]) => all,
    loading: things.pending,
    size: "small" as const,
  };
}

const CREATE = "create";

type OneProps<T extends ConfigItem> = Shared<T> & {
  value: string | null;
  choose: (id: string | null) => void;
  /** Whether one that is not there yet can be made by its name. */
  creates?: boolean;
};

/** Chooses one thing of any number of them. */
export function ThingPicker<T extends ConfigItem>({
  resource,
  nameOf,
  disabled,
  field,
  value,
  choose,
  creates = false,
}: OneProps<T>) {
  const [text, setText] = useState("");
  const things = useThings(resource, text, value ? [value] : []);
  const creating = useCreating(resource);
  const offer = creates ? creating.offered(text, things.found.map(nameOf)) : null;
  const plain = options(things, nameOf);
  const typed = (shown: string, why: string) => {
    setText(why === "input" ? shown : "");
  };
  const take = (id: string | null) => {
    if (id === CREATE) creating.make(text, choose);
    else choose(id);
  };
  const described = (props: React.HTMLAttributes<HTMLLIElement> & { key: React.Key }, id: string) => {
    const { key, ...rest } = props;
    return id === CREATE ? (
      <li key={key} {...rest}>
        {offer}
      </li>
    ) : (
      plain.renderOption(props, id)
    );
  };
  return (
    <Autocomplete
      {...plain}
      renderOption={described}
      options={offer ? [...plain.options, CREATE] : plain.options}
      getOptionLabel={(id) => (id === CREATE ? (offer ?? "") : plain.getOptionLabel(id))}
      disabled={disabled || creating.pending}
      value={value}
      onChange={(_, id) => take(id)}
      onInputChange={(_, shown, why) => typed(shown, why)}
      renderInput={(params) => <TextField {...params} {...field} />}
    />
  );
}

/** Chooses many things of any number of them. */
export function ThingsPicker<T extends ConfigItem>({
  resource,
  nameOf,
  disabled,
  field,
  value,
  choose,
}: Shared<T> & { value: string[]; choose: (ids: string[]) => void }) {
  const [text, setText] = useState("");
  const things = useThings(resource, text, value);
  return (
    <Autocomplete
      {...options(things, nameOf)}
      multiple
      disableCloseOnSelect
      disabled={disabled}
      value={value}
      onChange={(_, ids) => choose(ids)}
      onInputChange={(_, shown, why) => setText(why === "input" ? shown : "")}
      renderInput={(params) => <TextField {...params} {...field} />}
    />
  );
}
