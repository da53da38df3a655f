import "@fontsource-variable/source-sans-3/index.css";
// Styles stand beside what they belong to, and are fetched at once in this order, so that which rule wins never
// depends on which page was opened first.
import "./app/app.css";
import "./app/bar.css";
import "./shared/shared.css";
import "./board/board.css";
import "./checks/checks.css";
import "./circuits/circuits.css";
import "./codes/codes.css";
import "./complaint/complaint.css";
import "./decide/decide.css";
import "./instruments/instruments.css";
import "./job/job.css";
import "./logbook/logbook.css";
import "./measure/measure.css";
import "./offline/offline.css";
import "./prove/prove.css";
import "./report/report.css";
import "./start/start.css";
import "./strip/strip.css";
import "./trace/trace.css";
import "./train/train.css";
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { BrowserRouter } from "react-router";
import { Refused } from "./api/client";
import { App } from "./app/App";
import { keepMode, storedMode } from "./app/theme";

keepMode(storedMode());
// What keeps the page for when the connection is gone can come after it.
void import("virtual:pwa-register").then((pwa) => pwa.registerSW({ immediate: true }));

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
