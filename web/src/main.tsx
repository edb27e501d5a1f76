import { QueryClientProvider } from "@tanstack/react-query";
import { RouterProvider } from "@tanstack/react-router";
import { setNonce } from "get-nonce";
import { lazy, StrictMode, Suspense } from "react";
import { createRoot } from "react-dom/client";
import { ProblemError } from "./api/client";
import { Queries } from "./api/queries";
import { fetchOthers, router } from "./app";
import { SessionGate } from "./features/signin/SessionGate";
import { applyTheme } from "./ui/theme";
import "./index.css";

// Styles that libraries insert must carry the nonce of the page's content policy.
setNonce(document.querySelector<HTMLMetaElement>('meta[name="csp-nonce"]')?.content ?? "");
applyTheme();

const queries = new Queries({
  defaultOptions: {
    // Whether there is a connection is found by trying: else what is sent without one would wait in silence.
    mutations: { networkMode: "always" },
    queries: {
      networkMode: "always",
      staleTime: 5_000,
      retry: (count, error) =>
        count < 2 && !(error instanceof ProblemError && error.problem.status >= 400 && error.problem.status < 500),
    },
  },
});

const DecidePage = lazy(() => import("./features/ticket/DecidePage").then((m) => ({ default: m.DecidePage })));

/** A link from a mail needs no sign-in: it says by itself whose it is. */
const decision = /^\/decide\/([\w.-]+)$/.exec(window.location.pathname)?.[1];

window.addEventListener("load", fetchOthers);

const root = document.getElementById("root");
if (root) {
  createRoot(root).render(
    <StrictMode>
      <QueryClientProvider client={queries}>
        {decision ? (
          <Suspense>
            <DecidePage token={decision} />
          </Suspense>
        ) : (
          <SessionGate>
            <RouterProvider router={router} />
          </SessionGate>
        )}
      </QueryClientProvider>
    </StrictMode>,
  );
}
