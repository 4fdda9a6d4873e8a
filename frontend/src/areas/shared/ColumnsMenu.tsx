import { Button, Menu, MenuItem } from "@mui/material";
import { useState } from "react";
import styles from "./shared.module.css";

interface Props {
  columns: { key: string; name: string }[];
  chosen: string[];
  /** What is chosen where nobody has chosen anything. */
  usual: string[];
  choose: (next: string[]) => void;
}

/** Which columns a table has. */
export function ColumnsMenu({ columns, chosen, usual, choose }: Props) {
  const [menu, setMenu] = useState<HTMLElement | null>(null);
  const toggle = (key: string) => {
    choose(chosen.includes(key) ? chosen.filter((one) => one !== key) : [...chosen, key]);
  };
  return (
    <>
      <Button onClick={(event) => setMenu(event.currentTarget)} aria-haspopup="menu">
        Columns
      </Button>
      <Menu anchorEl={menu} open={menu !== null} onClose={() => setMenu(null)}>
        {columns.map((one) => (
          <MenuItem
            key={one.key}
            dense
            role="menuitemcheckbox"
            aria-checked={chosen.includes(one.key)}
            onClick={() => toggle(one.key)}>
            <span className={styles.tick}>{chosen.includes(one.key) ? "✓" : ""}</span>
            {one.name}
          </MenuItem>
        ))}
        <MenuItem dense onClick={() => choose(usual)}>
          <span className={styles.tick} />
          As usual
        </MenuItem>
      </Menu>
    </>
  );
}
