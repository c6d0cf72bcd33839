import "@fontsource-variable/inter/wght.css";
import { ChakraProvider } from "@chakra-ui/react";
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { createRoot } from "react-dom/client";
import { BrowserRouter } from "react-router";
import { Failure } from "./api/client";
import { askAhead } from "./app/ahead";
import { App } from "./app/app";
import { heed, settings } from "./settings/settings";
import { look, system } from "./theme";

look(settings());
heed(() => look(settings()));

// Refusals are final; a lost connection is worth another try.
const queries = new QueryClient({
  defaultOptions: {
    queries: {
      retry: (n, e) => n < 3 && e instanceof Failure && e.passing,
      staleTime: 2000,
      refetchOnWindowFocus: false,
    },
  },
});

// What is answered at once is shown at once, without a page that waits before it.
await Promise.race([askAhead(queries, location.pathname), new Promise((go) => setTimeout(go, 100))]);
createRoot(document.getElementById("root")!).render(
  <ChakraProvider value={system}>
    <QueryClientProvider client={queries}>
      <BrowserRouter>
        <App />
      </BrowserRouter>
    </QueryClientProvider>
  </ChakraProvider>,
);

// Without a connection the application opens all the same. Only pages with a certificate, or of
// this machine, may have a worker; it keeps what this page was made of before it was there.
if (import.meta.env.PROD)
  void navigator.serviceWorker
    ?.register("/worker.js")
    .then(() => navigator.serviceWorker.ready)
    .then((w) => w.active?.postMessage(performance.getEntriesByType("resource").map((r) => r.name)))
    .catch(() => {});
