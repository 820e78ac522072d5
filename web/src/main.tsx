import { queries } from "./api/queries";
import "@fontsource-variable/atkinson-hyperlegible-next";
import "@fontsource-variable/atkinson-hyperlegible-mono";
import "./styles/bootstrap.scss";
import "./styles/tokens.css";
import "./styles/base.css";
import "./styles/controls.css";
import { MutationCache, QueryCache, QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { ApiError } from "./api/client";
import { App } from "./app";

// A session that ran out shows the sign-in again, wherever it is noticed.
const noticed = (error: Error) => {
  if (error instanceof ApiError && error.problem.status === 401) {
    const state = client.getQueryState(queries.session.queryKey);
    if (state?.data) client.resetQueries({ queryKey: queries.session.queryKey });
  }
};

const client = new QueryClient({
  queryCache: new QueryCache({ onError: noticed }),
  mutationCache: new MutationCache({ onError: noticed }),
  defaultOptions: {
    queries: {
      staleTime: 2_000,
      retry: (count, error) => error instanceof ApiError && error.problem.status === 0 && count < 3,
    },
  },
});

// Only where the browser allows it: over https, or on this very machine.
if (import.meta.env.PROD) navigator.serviceWorker?.register("/sw.js").catch(() => undefined);

const root = document.getElementById("root");
if (root) {
  createRoot(root).render(
    <StrictMode>
      <QueryClientProvider client={client}>
        <App />
      </QueryClientProvider>
    </StrictMode>,
  );
}
