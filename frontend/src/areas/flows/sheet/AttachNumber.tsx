import { Button } from "@mui/material";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useSnackbar } from "notistack";
import { words } from "../../../api/client";
import { keys } from "../../../api/keys";
import { numbers, only, undoLast } from "../../../api/resources";
import { useSession } from "../../../frame/session";
import { ThingPicker } from "../../shared/ThingPicker";
import styles from "./sheet.module.css";

const fitting = { voice: only(numbers, { channel: "voice" }), text: only(numbers, { channel: "text" }) };

/** Has a number's calls answered by this flow. */
export function AttachNumber({ flow, channel }: { flow: string; channel: "voice" | "text" }) {
  const { may } = useSession();
  const cache = useQueryClient();
  const { enqueueSnackbar, closeSnackbar } = useSnackbar();
  const changed = () => {
    void cache.invalidateQueries({ queryKey: keys.all("numbers") });
    void cache.invalidateQueries({ queryKey: keys.uses("flows", flow) });
  };
  const failed = (error: unknown) => {
    enqueueSnackbar(words(error), { variant: "error" });
  };
  const back = useMutation({ mutationFn: undoLast, onSuccess: changed, onError: failed });
  const attach = useMutation({
    mutationFn: async (id: string) => numbers.change(id, { flow, revision: (await numbers.get(id)).revision }),
    onSuccess: (number) => {
      changed();
      enqueueSnackbar(`${number.national} is answered by this flow now.`, {
        action: (key) => (
          <Button
            color="inherit"
            onClick={() => {
              closeSnackbar(key);
              back.mutate(number.id);
            }}>
            Undo
          </Button>
        ),
      });
    },
    onError: failed,
  });
  if (!may("change", "numbers")) return null;
  return (
    <div className={styles.apart}>
      <ThingPicker
        resource={fitting[channel]}
        nameOf={(number) => `${number.national} ${number.label ?? ""} (${number.flow_now ?? "nothing answers"})`}
        disabled={attach.isPending}
        field={{ label: "Attach a number", placeholder: "Choose a number" }}
        value={null}
        choose={(id) => {
          if (id) attach.mutate(id);
        }}
      />
    </div>
  );
}
