/** What pages have around them: an address, what was read, and words of what was done. */
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { SnackbarProvider } from "notistack";
import { type ReactNode, useState } from "react";
import { MemoryRouter } from "react-router-dom";

export function Around({ children }: { children: ReactNode }) {
  const [cache] = useState(
    () => new QueryClient({ defaultOptions: { queries: { retry: false }, mutations: { retry: false } } }),
  );
  return (
    <MemoryRouter>
      <QueryClientProvider client={cache}>
        <SnackbarProvider>{children}</SnackbarProvider>
      </QueryClientProvider>
    </MemoryRouter>
  );
}
