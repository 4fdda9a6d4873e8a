import "@fontsource-variable/public-sans";
import "./tokens.css";
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
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
            <BrowserRouter>
              <App />
            </BrowserRouter>
          </SnackbarProvider>
        </ModeProvider>
      </QueryClientProvider>
    </StrictMode>,
  );
}
