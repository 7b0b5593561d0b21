import "@mantine/core/styles.css";
import "@mantine/notifications/styles.css";
import "@fontsource/barlow/latin-400.css";
import "@fontsource/barlow/latin-500.css";
import "@fontsource/barlow/latin-600.css";
import "@fontsource/barlow-condensed/latin-600.css";
import "@fontsource/ibm-plex-mono/latin-400.css";
import "@fontsource/ibm-plex-mono/latin-500.css";
import "./theme/paper.css";
import "./theme/blueprint.css";
import { MantineProvider } from "@mantine/core";
import { Notifications } from "@mantine/notifications";
import { QueryClientProvider } from "@tanstack/react-query";
import { StrictMode, useEffect } from "react";
import { createRoot } from "react-dom/client";
import { App } from "./App";
import { disposeRemoved } from "./api/bench";
import { makeQueries } from "./api/queries";
import { settleDecimals, settleFractions } from "./blocks/numbers";
import { keepFocus } from "./house/keepFocus";
import { useSettings } from "./house/settings";
import { useBlueprint } from "./house/theme";
import { theme } from "./theme/theme";

const client = makeQueries();
disposeRemoved(client);

/** The pages in the theme that is settled, with numbers as they are settled; both are followed at once. */
function Themed() {
  const { decimals, inches, sheetWidth } = useSettings();
  const scheme = useBlueprint() ? "dark" : "light";
  // Before anything is drawn: the bench reads its colours while it renders.
  document.documentElement.setAttribute("data-mantine-color-scheme", scheme);
  settleDecimals(Number(decimals));
  settleFractions(inches === "fraction");
  useEffect(() => document.documentElement.setAttribute("data-sheet", sheetWidth), [sheetWidth]);
  useEffect(keepFocus, []);
  return (
    <MantineProvider theme={theme} forceColorScheme={scheme}>
      <Notifications position="top-center" />
      <App />
    </MantineProvider>
  );
}

createRoot(document.getElementById("root")!).render(
  <StrictMode>
    <QueryClientProvider client={client}>
      <Themed />
    </QueryClientProvider>
  </StrictMode>,
);
