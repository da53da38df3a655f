import "@fontsource-variable/source-sans-3/index.css";
import "./app/app.css";
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { BrowserRouter } from "react-router";
import { Refused } from "./api/client";
import { App } from "./app/App";
import { keepMode, storedMode } from "./app/theme";
import { registerSW } from "virtual:pwa-register";

keepMode(storedMode());
registerSW({ immediate: true });

const client = new QueryClient({
  defaultOptions: {
    queries: {
      staleTime: 10_000,
      networkMode: "always", // the server may be this very machine, and without it the browser answers
      // A refusal is an answer; only a lost connection is worth another try.
      retry: (n, e) => n < 2 && !(e instanceof Refused && e.status > 0),
    },
    mutations: { retry: false, networkMode: "always" },
  },
});

createRoot(document.getElementById("root")!).render(
  <StrictMode>
    <QueryClientProvider client={client}>
      <BrowserRouter>
        <App />
      </BrowserRouter>
    </QueryClientProvider>
  </StrictMode>,
);
