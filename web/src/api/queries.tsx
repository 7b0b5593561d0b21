import { notifications } from "@mantine/notifications";
import { QueryCache, QueryClient, type Query } from "@tanstack/react-query";
import { Press } from "../blocks/Press";
import { sentence } from "../blocks/words";
import { Problem } from "./client";
import { onReturn } from "./connection";

const TRIES = 3;
const SHOWN_MS = 20_000;

/** Whether asking again may help: nothing was wrong with what was asked. */
const mayHelp = (error: unknown) => !(error instanceof Problem) || error.status === 0 || error.status >= 500;

/** What the pages know of the server; what cannot be had is told, with a way to try again. */
export function makeQueries(): QueryClient {
  const client = new QueryClient({
    queryCache: new QueryCache({ onError: tellFailed }),
    defaultOptions: { queries: { retry: (tried, error) => tried < TRIES && mayHelp(error) } },
  });
  // What was asked in vain meanwhile is asked again, and what is shown may have changed.
  onReturn(() => void client.invalidateQueries());
  return client;
}

function tellFailed(error: Error, query: Query<unknown, unknown, unknown>) {
  // What cannot be reached is told once for all, and what is wrong with a wish is told where it was typed.
  if (!mayHelp(error) || (error instanceof Problem && error.code === "unreached")) return;
  const id = `failed ${query.queryHash}`;
  const again = () => {
    notifications.hide(id);
    return query.fetch().catch(() => undefined);
  };
  notifications.hide(id);
  notifications.show({
    id,
    color: "vermilion",
    autoClose: SHOWN_MS,
    title: "Something on this page is missing",
    message: (
      <>
        {sentence(error instanceof Problem ? error.line : error.message)}{" "}
        <Press className="link" onClick={again}>
          Try again
        </Press>
      </>
    ),
  });
}
