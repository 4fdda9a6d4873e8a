import { Button } from "@mui/material";
import { useSnackbar } from "notistack";
import type { ReactNode } from "react";
import { useNavigate } from "react-router-dom";
import { words } from "../../api/client";
import type { ConfigItem, Resource, Values } from "../../api/resources";
import { Failure, Loading } from "../../frame/states";
import { useHeartbeat } from "../../frame/useLive";
import { usePageTitle } from "../../frame/title";
import { ConflictDialog } from "./ConflictDialog";
import { DeleteButton } from "./DeleteButton";
import { FieldInput } from "./FieldInput";
import type { Field } from "./fields";
import styles from "./shared.module.css";
import { errorOf, useItemForm } from "./useItemForm";

interface Props<T extends ConfigItem> {
  resource: Resource<T>;
  id: string;
  noun: string;
  titleOf: (record: T) => string;
  fields: Field[];
  initial: Values;
  mayChange: boolean;
  base: string;
  close: () => void;
  created: (id: string) => void;
  extra?: (record: T, took: (record: T) => void) => ReactNode;
  /** Shown above the fields: what one opens the sheet for. */
  top?: (record: T, took: (record: T) => void) => ReactNode;
  /** What a copy begins with; without it nothing can be copied. */
  copy?: (record: T) => Values;
  deletes: boolean;
}

/** The form of one kept thing. */
export function ItemSheet<T extends ConfigItem>({
  resource,
  id,
  noun,
  titleOf,
  fields,
  initial,
  mayChange,
  base,
  close,
  created,
  extra,
  top,
  copy,
  deletes,
}: Props<T>) {
  const { enqueueSnackbar } = useSnackbar();
  const navigate = useNavigate();
  const { revision } = useHeartbeat();
  const form = useItemForm(resource, id, initial, (record) => {
    const running = revision === null ? "" : " It is in effect on the exchange within a second.";
    enqueueSnackbar(
      `${titleOf(record)} is saved.${resource.drafts ? " It is a draft: callers meet it once it is published." : running}`,
    );
    if (id === "new") created(record.id);
  });
  const title = form.record ? titleOf(form.record) : `New ${noun}`;
  usePageTitle(title);
  if (form.pending) return <Loading what={noun} />;
  if (form.failure) return <Failure error={form.failure} retry={form.reload} of={{ noun, list: base }} />;
  return (
    <form
      className={styles.sheet}
      aria-label={title}
      noValidate
      onSubmit={(event) => {
        event.preventDefault();
        form.save();
      }}
      onKeyDown={(event) => {
        if (event.key === "Escape" && !form.dirty) close();
      }}>
      <div className={styles.sheetHead}>
        <h1 className="nowrap" title={title}>
          {title}
        </h1>
        <Button onClick={close}>Close</Button>
      </div>
      <div className={styles.fields}>
        {form.record && top?.(form.record, form.took)}
        {fields.map((field) => (
          <FieldInput
            key={field.name}
            field={field}
            value={form.values[field.name]}
            disabled={!mayChange}
            error={errorOf(form.errors, field.name)}
            values={form.values}
            change={(value) => form.set(field.name, value)}
          />
        ))}
        {form.saveError !== null && (
          <div role="alert" className="wrong">
            {words(form.saveError)}
          </div>
        )}
        {form.record && extra?.(form.record, form.took)}
      </div>
      {mayChange ? (
        <div className={styles.sheetFoot}>
          <Button type="submit" variant="contained" disabled={form.saving || (!form.dirty && id !== "new")}>
            {form.saving ? "Saving…" : id === "new" ? "Create" : "Save"}
          </Button>
          {form.dirty && <Button onClick={form.revert}>Undo typing</Button>}
          <span className="fill" />
          {form.record && copy && (
            <Button
              disabled={form.dirty}
              onClick={() => {
                if (form.record) void navigate(`${base}/new`, { state: copy(form.record) });
              }}>
              Copy
            </Button>
          )}
          {form.record && deletes && <DeleteButton resource={resource} id={id} name={title} gone={close} />}
        </div>
      ) : (
        <div className={`${styles.sheetFoot} dim`}>Your role lets you look, not change.</div>
      )}
      {form.conflict && <ConflictDialog conflict={form.conflict} fields={fields} settle={form.settle} />}
    </form>
  );
}
