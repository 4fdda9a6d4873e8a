import { Button } from "@mui/material";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useSnackbar } from "notistack";
import { words } from "../../api/client";
import { keys } from "../../api/keys";
import type { Named, Resource, Values } from "../../api/resources";

interface Props<T extends Named> {
  resource: Resource<T>;
  name: string;
  /** Everything but the name. */
  values: () => Values;
  disabled?: boolean;
  open: (id: string) => void;
}

/** Makes a copy under the next free name and opens it; for things that have a page of their own. */
export function CopyButton<T extends Named>({ resource, name, values, disabled, open }: Props<T>) {
  const cache = useQueryClient();
  const { enqueueSnackbar } = useSnackbar();
  const copy = useMutation({
    mutationFn: async () => {
      const taken = new Set((await resource.list({ search: name, page_size: 500 })).results.map((item) => item.name));
      let number = 2;
      while (taken.has(`${name} ${number}`)) number += 1;
      return resource.create({ ...values(), name: `${name} ${number}` });
    },
    onSuccess: (made) => {
      void cache.invalidateQueries({ queryKey: keys.all(resource.what) });
      enqueueSnackbar(`This is the copy: ${made.name}.`);
      open(made.id);
    },
    onError: (error) => {
      enqueueSnackbar(words(error), { variant: "error" });
    },
  });
  return (
    <Button disabled={Boolean(disabled) || copy.isPending} onClick={() => copy.mutate()}>
      Copy
    </Button>
  );
}
