import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useSnackbar } from "notistack";
import { words } from "../../api/client";
import { keys } from "../../api/keys";
import type { ConfigItem, Resource } from "../../api/resources";
import { useSession } from "../../frame/session";

/** Makes a thing by its name alone, from wherever it is first needed. */
export function useCreating<T extends ConfigItem>(resource: Resource<T>) {
  const { may } = useSession();
  const cache = useQueryClient();
  const { enqueueSnackbar } = useSnackbar();
  const { begins } = resource;
  const { mutate, isPending } = useMutation({
    mutationFn: (name: string) => resource.create({ ...begins?.values, name }),
    onSuccess: (_, name) => {
      void cache.invalidateQueries({ queryKey: keys.all(resource.what) });
      enqueueSnackbar(`The ${begins?.noun ?? "thing"} “${name}” has a name. Set it up when you like.`);
    },
    onError: (error) => {
      enqueueSnackbar(words(error), { variant: "error" });
    },
  });
  return {
    /** What is offered for a typed name: words, or null where nothing can be made or it is there. */
    offered: (text: string, taken: string[]) => {
      const name = text.trim();
      if (
        !name ||
        !begins ||
        !may("change", begins.area) ||
        taken.some((one) => one.toLowerCase() === name.toLowerCase())
      )
        return null;
      return `Create ${begins.noun} “${name}”`;
    },
    make: (text: string, then: (id: string) => void) => {
      mutate(text.trim(), {
        onSuccess: (made) => {
          then(made.id);
        },
      });
    },
    pending: isPending,
  };
}
