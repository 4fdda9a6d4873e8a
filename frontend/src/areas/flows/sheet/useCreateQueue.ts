import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useSnackbar } from "notistack";
import { words } from "../../../api/client";
import { keys } from "../../../api/keys";
import { queues } from "../../../api/resources";

/** Makes a queue by its name alone, from wherever it is first needed. */
export function useCreateQueue() {
  const cache = useQueryClient();
  const { enqueueSnackbar } = useSnackbar();
  return useMutation({
    mutationFn: (name: string) => queues.create({ name }),
    onSuccess: (queue) => {
      void cache.invalidateQueries({ queryKey: keys.all("queues") });
      enqueueSnackbar(`Queue “${queue.name}” has a name. Set it up when you like.`);
    },
    onError: (error) => { enqueueSnackbar(words(error), { variant: "error" }); },
  });
}
