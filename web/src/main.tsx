import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { createRoot } from "react-dom/client";
import { BrowserRouter } from "react-router";
import { ApiError } from "./api/client";
import "./app.css";
import { App } from "./App";

const client = new QueryClient({
  defaultOptions: {
    queries: {
      // What the server refused will be refused again; what did not reach it may get through.
      retry: (tries, error) => tries < 3 && !(error instanceof ApiError && error.status >= 400 && error.status < 500),
      staleTime: 2000,
      networkMode: "always",
    },
    // The server may run on this very machine: whether there is any other network says nothing.
    mutations: { networkMode: "always" },
  },
});

document.documentElement.dataset.theme = localStorage.getItem("theme") ?? "light";
createRoot(document.getElementById("root")!).render(
  <QueryClientProvider client={client}>
    <BrowserRouter>
      <App />
    </BrowserRouter>
  </QueryClientProvider>,
);
