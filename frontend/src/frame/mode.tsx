import { ThemeProvider } from "@mui/material/styles";
import { createContext, type ReactNode, use, useEffect, useMemo, useState } from "react";
import { type Mode, themeFor } from "../theme";

const ModeContext = createContext<{ mode: Mode; toggle: () => void }>({ mode: "day", toggle: () => undefined });

/** Daylight or night, and changing it. */
export function useMode() {
  return use(ModeContext);
}

/** Remembers the mode in this browser and dresses everything in it. */
export function ModeProvider({ children }: { children: ReactNode }) {
  const [mode, setMode] = useState<Mode>(() =>
    window.localStorage.getItem("hazeridge-mode") === "night" ? "night" : "day",
  );
  useEffect(() => {
    document.documentElement.dataset.theme = mode;
    window.localStorage.setItem("hazeridge-mode", mode);
  }, [mode]);
  const value = useMemo(
    () => ({
      mode,
      toggle: () => {
        setMode((m) => (m === "day" ? "night" : "day"));
      },
    }),
    [mode],
  );
  return (
    <ModeContext value={value}>
      <ThemeProvider theme={themeFor(mode)}>{children}</ThemeProvider>
    </ModeContext>
  );
}
