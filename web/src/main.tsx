import "@mantine/core/styles.css";
import "@mantine/notifications/styles.css";
import "@fontsource/barlow/latin-400.css";
import "@fontsource/barlow/latin-500.css";
import "@fontsource/barlow/latin-600.css";
import "@fontsource/barlow-condensed/latin-600.css";
import "@fontsource/ibm-plex-mono/latin-400.css";
import "@fontsource/ibm-plex-mono/latin-500.css";
import "./theme/paper.css";
import { MantineProvider } from "@mantine/core";
import { Notifications } from "@mantine/notifications";
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { App } from "./App";
import { disposeRemoved } from "./api/bench";
import { theme } from "./theme/theme";

const client = new QueryClient();
disposeRemoved(client);

createRoot(document.getElementById("root")!).render(
  <StrictMode>
    <MantineProvider theme={theme} forceColorScheme="light">
      <QueryClientProvider client={client}>
        <Notifications position="top-center" />
        <App />
      </QueryClientProvider>
    </MantineProvider>
  </StrictMode>,
);
