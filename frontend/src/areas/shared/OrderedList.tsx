import { IconButton, TextField } from "@mui/material";
import { useState } from "react";
import styles from "./ordered.module.css";

export interface Ordered {
  id: string;
  name: string;
  about?: string;
}

interface Props {
  items: Ordered[];
  disabled: boolean;
  /** The ids in their new order. */
  change: (ids: string[]) => void;
  remove?: (id: string) => void;
}

/** A list in an order: dragged, moved by keys, or typed as a number. */
export function OrderedList({ items, disabled, change, remove }: Props) {
  const [dragged, setDragged] = useState<string | null>(null);
  const move = (id: string, to: number) => {
    const rest = items.map((item) => item.id).filter((other) => other !== id);
    if (to < 0 || to > rest.length || rest.length === items.length) return;
    change([...rest.slice(0, to), id, ...rest.slice(to)]);
  };
  return (
    <ol className={`${styles.list} ${remove ? styles.removes : ""}`}>
      {items.map(({ id, name, about }, at) => (
        <li
          key={id}
          draggable={!disabled}
          className={dragged === id ? styles.dragged : undefined}
          onDragStart={() => setDragged(id)}
          onDragEnd={() => setDragged(null)}
          onDragOver={(event) => event.preventDefault()}
          onDrop={(event) => {
            event.preventDefault();
            if (dragged) move(dragged, at);
            setDragged(null);
          }}>
          <Place
            key={`${id} ${at}`}
            name={name}
            place={at + 1}
            most={items.length}
            disabled={disabled}
            move={(to) => move(id, to - 1)}
          />
          <span className="nowrap" title={name}>
            {name}
            {about && <span className="dim"> {about}</span>}
          </span>
          <IconButton
            size="small"
            disabled={disabled || at === 0}
            aria-label={`${name}: earlier`}
            onClick={() => move(id, at - 1)}>
            ↑
          </IconButton>
          <IconButton
            size="small"
            disabled={disabled || at === items.length - 1}
            aria-label={`${name}: later`}
            onClick={() => move(id, at + 1)}>
            ↓
          </IconButton>
          {remove && (
            <IconButton size="small" disabled={disabled} aria-label={`${name}: take out`} onClick={() => remove(id)}>
              ×
            </IconButton>
          )}
        </li>
      ))}
    </ol>
  );
}

interface PlaceProps {
  name: string;
  place: number;
  most: number;
  disabled: boolean;
  move: (to: number) => void;
}

/** A place as a number: another one moves the item there. */
function Place({ name, place, most, disabled, move }: PlaceProps) {
  const [typed, setTyped] = useState(String(place));
  const to = /^\d+$/.test(typed) ? Number(typed) : 0;
  const wrong = to < 1 || to > most;
  const done = () => {
    if (!wrong && to !== place) move(to);
  };
  return (
    <TextField
      value={typed}
      disabled={disabled}
      error={wrong}
      slotProps={{
        htmlInput: {
          "aria-label": `${name}: place`,
          inputMode: "numeric",
          title: wrong ? `A place from 1 to ${most} is needed.` : undefined,
        },
      }}
      onChange={(event) => setTyped(event.target.value)}
      onBlur={done}
      onKeyDown={(event) => {
        if (event.key === "Enter") {
          event.preventDefault();
          done();
        }
      }}
    />
  );
}
