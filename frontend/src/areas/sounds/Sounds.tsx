import { Button } from "@mui/material";
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { sounds } from "../../api/resources";
import { clock } from "../../frame/format";
import { ConfigListPage } from "../shared/ConfigListPage";
import { ManyFiles } from "./ManyFiles";
import { languageName, Recordings, TextsField } from "./Recordings";
import { UsedBy } from "../shared/UsedBy";
import { Wave } from "./Wave";
import styles from "./sounds.module.css";

type Sound = Schemas["Sound"];

/** The library of sounds. */
export default function Sounds() {
  const [many, setMany] = useState(false);
  return (
    <>
      <ConfigListPage<Sound>
        resource={sounds}
        area="sounds"
        base="/guide/sounds"
        title="Sounds"
        noun="sound"
        titleOf={(sound) => sound.name}
        sort={[{ field: "name", sort: "asc" }]}
        initial={{ recordings: [{ language: "en", text: "", speed: 155, source: "spoken" }] }}
        copy={({ name, recordings }) => ({
          name: `${name} 2`,
          recordings: recordings?.map(({ language, text, speed }) => ({ language, text, speed, source: "spoken" })),
        })}
        empty="Type a text and have it spoken, record it here, or upload files. Flows can also speak a text without an entry here."
        tools={<Button onClick={() => setMany(true)}>Many files…</Button>}
        columns={[
          { field: "name", headerName: "Name", flex: 1, minWidth: 130 },
          {
            field: "text",
            headerName: "What is said",
            flex: 2,
            minWidth: 160,
            sortable: false,
            valueGetter: (_, row) => row.recordings?.[0]?.text ?? "",
          },
          {
            field: "wave",
            headerName: "Wave",
            width: 120,
            sortable: false,
            renderCell: ({ row }) => (
              <span className={styles.inCell}>
                <Wave peaks={row.recordings?.[0]?.peaks ?? []} width={100} height={22} />
              </span>
            ),
          },
          {
            field: "languages",
            headerName: "Languages",
            width: 130,
            sortable: false,
            valueGetter: (_, row) => row.recordings?.map((r) => languageName(r.language)).join(", "),
          },
          {
            field: "length",
            headerName: "Length",
            width: 70,
            align: "right",
            headerAlign: "right",
            sortable: false,
            renderCell: ({ row }) => (row.recordings?.[0]?.take ? clock(row.recordings[0].length_ms) : "–"),
          },
          {
            field: "level",
            headerName: "Level",
            width: 110,
            sortable: false,
            renderCell: ({ row }) =>
              row.recordings?.some((r) => r.far) ? (
                <span className="chip warns">uneven</span>
              ) : (
                <span className="num">{row.recordings?.[0]?.loudness?.toFixed(1) ?? "–"}</span>
              ),
          },
        ]}
        fields={[
          { kind: "text", name: "name", label: "Name", required: true },
          { kind: "own", name: "recordings", label: "Texts", Input: TextsField },
          {
            kind: "yes",
            name: "hold_music",
            label: "Hold music of the centre, wherever no queue, plan or stop has its own",
          },
        ]}
        top={(sound, took) => <Recordings sound={sound} took={took} />}
        extra={(sound) => <UsedBy resource={sounds} id={sound.id} />}
      />
      {many && <ManyFiles close={() => setMany(false)} />}
    </>
  );
}
