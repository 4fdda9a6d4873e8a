import { createTheme, type Theme } from "@mui/material/styles";

const day = {
  primary: "#17403A",
  accent: "#97431F",
  problem: "#6C3B5E",
  ground: "#F3F5F2",
  sheet: "#FFFFFF",
  ink: "#1D2B28",
  dim: "#4C5965",
  line: "#D9DFD8",
  onPrimary: "#FFFFFF",
};
const night = {
  primary: "#9DB8B0",
  accent: "#F0A37D",
  problem: "#DBB0CE",
  ground: "#101C1B",
  sheet: "#172725",
  ink: "#E6EEEA",
  dim: "#B6C2CC",
  line: "#2B3D3A",
  onPrimary: "#101C1B",
};

export type Mode = "day" | "night";

/** The look of all standard parts, from the same tokens as our own drawings. */
export function themeFor(mode: Mode): Theme {
  const c = mode === "day" ? day : night;
  return createTheme({
    palette: {
      mode: mode === "day" ? "light" : "dark",
      primary: { main: c.primary, contrastText: c.onPrimary },
      secondary: { main: c.accent },
      error: { main: c.problem },
      background: { default: c.ground, paper: c.sheet },
      text: { primary: c.ink, secondary: c.dim },
      divider: c.line,
    },
    shape: { borderRadius: 4 },
    typography: {
      fontFamily: '"Public Sans Variable", "Public Sans", system-ui, sans-serif',
      fontSize: 13,
      button: { textTransform: "none", fontWeight: 560 },
    },
    components: {
      MuiButton: {
        defaultProps: { disableElevation: true, size: "small" },
        styleOverrides: { root: { lineHeight: "20px", whiteSpace: "nowrap" } },
      },
      MuiToggleButton: { styleOverrides: { root: { color: c.dim, "&.Mui-selected": { color: c.ink } } } },
      MuiTextField: { defaultProps: { size: "small", fullWidth: true } },
      MuiButtonBase: { defaultProps: { disableRipple: true } },
      MuiTooltip: { defaultProps: { enterDelay: 400 } },
      MuiInputBase: { styleOverrides: { root: { fontSize: 13.5 } } },
      MuiInputLabel: { defaultProps: { shrink: true } },
      MuiOutlinedInput: { defaultProps: { notched: true } },
      MuiDialogTitle: { styleOverrides: { root: { fontSize: 16, fontWeight: 660, paddingBottom: 8 } } },
    },
  });
}
