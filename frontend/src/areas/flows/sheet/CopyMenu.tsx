import { Button, IconButton, Menu, MenuItem } from "@mui/material";
import { useState } from "react";
import type { Clipboard } from "../useClipboard";

interface Props {
  /** The stop by itself, or with all that follows it. */
  copy: (all: boolean) => void;
  clipboard: Clipboard;
}

/** Copying and pasting by button; each says its key. */
export function CopyMenu({ copy, clipboard }: Props) {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const act = (deed: () => void) => () => {
    setAnchor(null);
    deed();
  };
  return (
    <>
      <Button aria-haspopup="menu" onClick={(event) => setAnchor(event.currentTarget)}>
        Copy…
      </Button>
      <Menu open={anchor !== null} anchorEl={anchor} onClose={() => setAnchor(null)}>
        <MenuItem
          onClick={act(() => {
            copy(false);
          })}>
          Copy this stop <kbd>Ctrl C</kbd>
        </MenuItem>
        <MenuItem
          onClick={act(() => {
            copy(true);
          })}>
          Copy it with all that follows <kbd>C</kbd>
        </MenuItem>
        <MenuItem disabled={anchor === null || !clipboard.full()} onClick={act(clipboard.paste)}>
          Paste after it <kbd>Ctrl V</kbd>
        </MenuItem>
      </Menu>
    </>
  );
}

/** Copies one arm with all that follows it. */
export function CopyArm({ name, disabled, copy }: { name: string; disabled: boolean; copy: () => void }) {
  return (
    <IconButton
      size="small"
      disabled={disabled}
      aria-label={`Copy ${name} with all that follows`}
      title="Copy it with all that follows; paste it at another stop of this kind"
      onClick={copy}>
      <svg width="14" height="14" viewBox="0 0 14 14" aria-hidden="true">
        <path d="M4.500 4.500h8v8h-8zM2 9.500V1.500h8" fill="none" stroke="currentColor" strokeWidth="1.4" />
      </svg>
    </IconButton>
  );
}
