import { Button } from "@mui/material";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useSnackbar } from "notistack";
import { type Schemas, uploadSound, words } from "../../api/client";
import { keys } from "../../api/keys";
import { sounds } from "../../api/resources";
import { clock } from "../../frame/format";
import { useSession } from "../../frame/session";
import { KeptPage } from "../shared/KeptPage";
import { Player } from "./Player";

type Sound = Schemas["Sound"];

/** Hear the recording, or put a file in its place. */
function Recording({ sound }: { sound: Sound }) {
  const cache = useQueryClient();
  const { may } = useSession();
  const { enqueueSnackbar } = useSnackbar();
  const upload = useMutation({
    mutationFn: (file: File) => uploadSound(sound.id, sound.revision ?? 1, file),
    onSuccess: (changed) => {
      cache.setQueryData(keys.one("sounds", sound.id), changed);
      void cache.invalidateQueries({ queryKey: keys.all("sounds") });
      enqueueSnackbar("The file is now the recording.");
    },
  });
  return (
    <div style={{ display: "grid", gap: 10 }}>
      <div style={{ display: "flex", gap: 8, alignItems: "center" }}>
        {sound.take ? <Player take={sound.take} seconds={(sound.length_ms ?? 0) / 1000} /> : <span className="dim">No recording yet.</span>}
        {may("change", "sounds") && (
          <Button component="label" disabled={upload.isPending}>
            {upload.isPending ? "Uploading…" : "Upload a file…"}
            <input type="file" hidden accept="audio/*" aria-label="Upload a sound file"
              onChange={(event) => {
                const file = event.target.files?.[0];
                event.target.value = "";
                if (file) upload.mutate(file);
              }} />
          </Button>
        )}
      </div>
      <span className="dim">
        {sound.uploaded ? "Recorded from an uploaded file; the text says what is heard." : "Spoken by the speech engine; spoken again when the text changes."}
      </span>
      {upload.isError && <div role="alert" style={{ color: "var(--plum-ink)" }}>{words(upload.error)}</div>}
    </div>
  );
}

/** The library of sounds. */
export default function Sounds() {
  return (
    <KeptPage<Sound>
      resource={sounds}
      area="sounds"
      base="/guide/sounds"
      title="Sounds"
      noun="sound"
      titleOf={(sound) => sound.name}
      sort={[{ field: "name", sort: "asc" }]}
      initial={{ language: "en" }}
      empty="Type a text and have it spoken, or upload a recording. Flows can also speak a text without an entry here."
      columns={[
        { field: "name", headerName: "Name", flex: 1, minWidth: 150 },
        { field: "text", headerName: "What is said", flex: 2, minWidth: 200, sortable: false },
        { field: "language", headerName: "Language", width: 100, valueFormatter: (value) => (value === "cy" ? "Welsh" : "English") },
        {
          field: "take.length_ms", headerName: "Length", width: 90, align: "right", headerAlign: "right",
          renderCell: ({ row }) => (row.take ? clock(row.length_ms ?? 0) : "–"),
        },
      ]}
      fields={[
        { kind: "text", name: "name", label: "Name", required: true },
        { kind: "choice", name: "language", label: "Language", options: [{ value: "en", label: "English" }, { value: "cy", label: "Welsh" }] },
        { kind: "area", name: "text", label: "What is said" },
      ]}
      extra={(sound) => <Recording sound={sound} />}
    />
  );
}
