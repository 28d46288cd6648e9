import "@fontsource-variable/instrument-sans/index.css";
import "@fontsource-variable/newsreader/index.css";
import "./app/styles.css";
import { CssBaseline, ThemeProvider } from "@mui/material";
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { createRoot } from "react-dom/client";
import { RouterProvider } from "react-router";
import { Boundary } from "./app/Boundary";
import { router } from "./app/router";
import { theme } from "./app/theme";
import { toStyles } from "./app/tokens";

const queries = new QueryClient({ defaultOptions: { queries: { retry: 1, refetchOnWindowFocus: false } } });
toStyles(document.documentElement);
const root = document.getElementById("root");
if (root)
  createRoot(root).render(
    <ThemeProvider theme={theme}>
      <CssBaseline />
      <QueryClientProvider client={queries}>
        <Boundary>
          <RouterProvider router={router} />
        </Boundary>
      </QueryClientProvider>
    </ThemeProvider>,
  );
