import { Button, MenuItem, TextField } from "@mui/material";
import { useState } from "react";
import { Link, useNavigate } from "react-router-dom";
import { type Definition, type Use, words } from "../../../api/client";
import { lengths } from "../../../api/lengths";
import { flows } from "../../../api/resources";
import { CopyButton } from "../../shared/CopyButton";
import { DeleteButton } from "../../shared/DeleteButton";
import { NumberBox } from "../../shared/NumberBox";
import shared from "../../shared/shared.module.css";
import { endingWords } from "../endings";
import { knownValues } from "../flowValues";
import { spoken } from "../stepFields";
import { places } from "../places";
import type { FlowDraft } from "../useFlowDraft";
import { ValueList } from "./ValueList";
import { InputsField } from "./InputsField";
import { print, savePng, saveSvg } from "../trail/picture";
import { fateLooks } from "../trail/strands";
import { AttachNumber } from "./AttachNumber";
import { PromptField } from "./PromptField";
import { RefPicker } from "./RefPicker";
import styles from "./sheet.module.css";

interface Props {
  id: string;
  name: string;
  about: string;
  rename: FlowDraft["rename"];
  definition: Definition;
  uses: Use[];
  endings: Record<string, number>;
  mayChange: boolean;
  change: (definition: Definition, tag?: string) => void;
  gone: () => void;
}

/** What leads to a flow, by its purpose. */
const leading = {
  flow: {
    kind: "number",
    title: "Numbers that lead here",
    none: "None yet: a number names its flow.",
    page: "/arrive/numbers",
  },
  block: {
    kind: "flow",
    title: "Flows that use it",
    none: "None yet: a stop “Use a shared block” names it.",
    page: "/guide/flows",
  },
  plan: {
    kind: "queue",
    title: "Queues whose callers wait by it",
    none: "None yet: a queue names its waiting plan.",
    page: "/wait/queues",
  },
};

interface SaidProps {
  what: "name" | "description";
  label: string;
  said: string;
  rename: FlowDraft["rename"];
  disabled: boolean;
}

/** The flow's name, or what it is for; a new one counts when the field is left. */
function SaidField({ what, label, said, rename, disabled }: SaidProps) {
  const [typed, setTyped] = useState(said);
  const keep = () => {
    if (typed.trim() !== said) rename.mutate({ [what]: typed.trim() });
  };
  const wrong = rename.isError && rename.variables[what] !== undefined;
  return (
    <TextField
      label={label}
      value={typed}
      disabled={disabled || rename.isPending}
      error={wrong}
      helperText={wrong ? words(rename.error) : undefined}
      slotProps={{ htmlInput: { maxLength: lengths.FlowDraft[what] } }}
      onChange={(event) => setTyped(event.target.value)}
      onBlur={keep}
      onKeyDown={(event) => {
        if (event.key === "Enter") keep();
      }}
    />
  );
}

/** What counts for the whole flow; shown while no stop is chosen. */
export function FlowSheet({ id, name, about, rename, definition, uses, endings, mayChange, change, gone }: Props) {
  const failure = definition.failure_prompt;
  const longest = definition.channel === "text" ? 604800 : 7200;
  const leads = leading[definition.purpose];
  const here = uses.filter((use) => use.kind === leads.kind);
  const navigate = useNavigate();
  return (
    <div className={shared.sheet}>
      <div className={shared.sheetHead}>
        <h1>The whole flow</h1>
      </div>
      <div className={shared.fields}>
        <SaidField key={`name ${name}`} what="name" label="Name" said={name} rename={rename} disabled={!mayChange} />
        <SaidField
          key={`about ${about}`}
          what="description"
          label="What it is for"
          said={about}
          rename={rename}
          disabled={!mayChange}
        />
        <section aria-label="Endings today">
          <h2>Endings today</h2>
          {Object.keys(endings).length === 0 && <span className="dim">No call has ended in it yet today.</span>}
          {Object.entries(endings).map(([ending, count]) => (
            <div
              key={ending}
              style={{ display: "flex", justifyContent: "space-between", color: fateLooks[ending]?.ink }}>
              <span>{endingWords[ending] ?? ending}</span>
              <b>{count}</b>
            </div>
          ))}
        </section>
        <section aria-label="Export">
          <h2>Export</h2>
          <div className={styles.links}>
            <Button sx={{ minWidth: 0, px: 1 }} href={`/api/v1/flows/${id}/file`}>
              JSON
            </Button>
            <Button sx={{ minWidth: 0, px: 1 }} href={`/api/v1/flows/${id}/file?form=scxml`}>
              SCXML
            </Button>
            {definition.channel === "voice" && (
              <Button sx={{ minWidth: 0, px: 1 }} href={`/api/v1/flows/${id}/file?form=voicexml`}>
                VoiceXML
              </Button>
            )}
            <Button sx={{ minWidth: 0, px: 1 }} onClick={() => saveSvg(name)}>
              SVG
            </Button>
            <Button sx={{ minWidth: 0, px: 1 }} onClick={() => void savePng(name)}>
              PNG
            </Button>
            <Button sx={{ minWidth: 0, px: 1 }} onClick={() => print(name)}>
              Print
            </Button>
          </div>
        </section>
        <section aria-label={leads.title}>
          <h2>{leads.title}</h2>
          {here.length === 0 && <span className="dim">{leads.none}</span>}
          {here.map((use) => (
            <div key={use.id}>
              <Link to={`${leads.page}/${use.id}`}>{use.name}</Link>
            </div>
          ))}
          {definition.purpose === "flow" && <AttachNumber flow={id} channel={definition.channel} />}
        </section>
        {definition.purpose !== "plan" && (
          <TextField
            select
            label="Answers"
            value={definition.channel}
            disabled={!mayChange}
            onChange={(event) => change({ ...definition, channel: event.target.value as "voice" | "text" })}>
            <MenuItem value="voice">Calls</MenuItem>
            <MenuItem value="text">Text messages</MenuItem>
          </TextField>
        )}
        <TextField
          select
          label="Language"
          value={definition.language}
          disabled={!mayChange}
          onChange={(event) => change({ ...definition, language: event.target.value as "en" | "cy" })}>
          <MenuItem value="en">English</MenuItem>
          <MenuItem value="cy">Welsh</MenuItem>
        </TextField>
        {definition.channel === "voice" && (
          <RefPicker
            of="sound"
            label="Hold music"
            empty={
              definition.purpose === "plan" ? "as the queue or the centre has it" : "as each queue or the centre has it"
            }
            value={definition.music ?? null}
            inputs={definition.inputs}
            disabled={!mayChange}
            choose={(music) => change({ ...definition, music })}
          />
        )}
        {definition.purpose !== "plan" && (
          <NumberBox
            label="Longest stay in the flow"
            value={definition.stay_limit_s}
            least={30}
            most={longest}
            disabled={!mayChange}
            help={`seconds, 30 to ${longest}; time in queues is not counted`}
            change={(stay_limit_s) => {
              if (stay_limit_s !== null) change({ ...definition, stay_limit_s }, "limit");
            }}
          />
        )}
        <InputsField
          inputs={definition.inputs}
          disabled={!mayChange}
          change={(inputs, tag) => change({ ...definition, inputs }, tag)}
        />
        {definition.purpose !== "plan" && (
          <ValueList
            label="Outputs"
            help="Values that this flow gives back where it is used as a shared block."
            value={definition.outputs}
            known={knownValues(definition)}
            disabled={!mayChange}
            change={(outputs) => change({ ...definition, outputs })}
          />
        )}
        {failure ? (
          <>
            <PromptField
              label="When something fails, callers hear"
              prompt={failure}
              language={definition.language}
              inputs={definition.inputs}
              disabled={!mayChange}
              change={(prompt, typing) => change({ ...definition, failure_prompt: prompt }, typing ? "failure" : "")}
            />
            <div>
              <Button disabled={!mayChange} onClick={() => change({ ...definition, failure_prompt: null })}>
                Say nothing, just end the call
              </Button>
            </div>
          </>
        ) : (
          <div>
            <Button
              variant="outlined"
              disabled={!mayChange}
              onClick={() => change({ ...definition, failure_prompt: spoken("", definition.language) })}>
              When something fails, say…
            </Button>
          </div>
        )}
      </div>
      {mayChange && (
        <div className={shared.sheetFoot}>
          <span className="fill" />
          <CopyButton
            resource={flows}
            name={name}
            values={() => ({ draft: definition })}
            open={(made) => void navigate(`${places[definition.purpose].base}/${made}`)}
          />
          <DeleteButton resource={flows} id={id} name={name} gone={gone} />
        </div>
      )}
    </div>
  );
}
