import "@fontsource-variable/public-sans";
import "./tokens.css";
import { AdapterDayjs } from "@mui/x-date-pickers/AdapterDayjs";
import { LocalizationProvider } from "@mui/x-date-pickers/LocalizationProvider";
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import "dayjs/locale/en-gb";
import { SnackbarProvider } from "notistack";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { BrowserRouter } from "react-router-dom";
import { Problem } from "./api/client";
import { App } from "./App";
import { ModeProvider } from "./frame/mode";

const cache = new QueryClient({
  defaultOptions: {
    queries: {
      staleTime: 5_000,
      retry: (count, error) => count < 2 && error instanceof Problem && [0, 502, 503].includes(error.status),
    },
  },
});

const root = document.getElementById("root");
if (root) {
  createRoot(root).render(
    <StrictMode>
      <QueryClientProvider client={cache}>
        <ModeProvider>
          <SnackbarProvider anchorOrigin={{ vertical: "bottom", horizontal: "left" }} autoHideDuration={7000}>
            <LocalizationProvider dateAdapter={AdapterDayjs} adapterLocale="en-gb">
              <BrowserRouter>
                <App />
              </BrowserRouter>
            </LocalizationProvider>
          </SnackbarProvider>
        </ModeProvider>
      </QueryClientProvider>
    </StrictMode>,
  );
}
