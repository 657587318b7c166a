import "@fontsource/ibm-plex-sans/latin-400.css";
import "@fontsource/ibm-plex-sans/latin-500.css";
import "@fontsource/ibm-plex-sans/latin-600.css";
import "@fontsource/ibm-plex-sans/greek-400.css";
import "@fontsource/ibm-plex-mono/latin-400.css";
import "@fontsource/ibm-plex-mono/latin-500.css";
import "./app.css";
import "./dialogs.css";
import "../readings/readings.css";
import "../plan/plan.css";
import "../ledger/sheet.css";
import "../review/review.css";
import "../building/building.css";
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { Entrance } from "../people/Entrance";
import { Join } from "../people/Join";
import { App } from "./App";

// Answers of the server do not age by themselves: what they depend on is in their keys.
const queries = new QueryClient({ defaultOptions: { queries: { staleTime: Number.POSITIVE_INFINITY, retry: 1 } } });

createRoot(document.getElementById("root") as HTMLElement).render(
  <StrictMode>
    <QueryClientProvider client={queries}>
      {location.pathname === "/join" ? (
        <Join />
      ) : (
        <Entrance>
          <App />
        </Entrance>
      )}
    </QueryClientProvider>
  </StrictMode>,
);
