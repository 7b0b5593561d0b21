import { TextInput } from "@mantine/core";
import { useEffect, useRef, useState } from "react";
import { NativeChoice } from "../blocks/NativeChoice";
import { Press } from "../blocks/Press";
import { letterKey } from "../house/letterKey";
import css from "./Jobs.module.css";
import type { Listing, Order, Wanted } from "./useJobList";

const KINDS: readonly (readonly [Wanted, string])[] = [
  ["all", "all"],
  ["open", "unit not settled"],
  ["stop", "stopped"],
  ["released", "released"],
  ["archive", "archive"],
  ["bin", "bin"],
];
const ORDERS: readonly (readonly [Order, string])[] = [
  ["changed", "last changed first"],
  ["name", "by name"],
  ["created", "newest first"],
];
const PAUSE_MS = 200;

/** Words that jobs must hold, which kind of them, in which order. */
export function JobSearch({ listing }: { listing: Listing }) {
  const { wish, want, page } = listing;
  const labels: [string, string][] = [
    ["", "any label"],
    ...Object.entries(page?.labels ?? {}).map(([label, jobs]): [string, string] => [label, `${label} (${jobs})`]),
  ];
  return (
    <div className={css.search} role="search">
      <SearchField text={wish.text} look={(text) => want({ text })} />
      <span className={css.kinds} role="group" aria-label="Which jobs">
        {KINDS.map(([kind, says]) => (
          <Press
            key={kind}
            className={css.kind}
            aria-pressed={wish.wanted === kind}
            onClick={() => want({ wanted: kind })}
          >
            {says} <i>{page?.counts[kind] ?? ""}</i>
          </Press>
        ))}
      </span>
      {labels.length > 1 && (
        <NativeChoice
          label="Label"
          value={wish.label}
          options={labels}
          width={150}
          choose={(label) => want({ label })}
        />
      )}
      <NativeChoice
        label="Order of the jobs"
        value={wish.order}
        options={ORDERS}
        width={140}
        choose={(order) => want({ order })}
      />
    </div>
  );
}

/** Found as one types, after a short pause; the key / leads here, Esc empties it. */
function SearchField({ text, look }: { text: string; look: (text: string) => void }) {
  const field = useRef<HTMLInputElement>(null);
  const [typed, type] = useState(text);
  useEffect(() => {
    const pressed = (event: KeyboardEvent) => {
      if (letterKey(event) !== "/") return;
      event.preventDefault();
      field.current?.focus();
    };
    window.addEventListener("keydown", pressed);
    return () => window.removeEventListener("keydown", pressed);
  }, []);
  useEffect(() => {
    if (typed === text) return;
    const soon = setTimeout(() => look(typed), PAUSE_MS);
    return () => clearTimeout(soon);
  }, [typed, text, look]);
  return (
    <TextInput
      ref={field}
      type="search"
      aria-label="Search jobs"
      placeholder="any word of a job"
      value={typed}
      w={200}
      onChange={(event) => type(event.currentTarget.value)}
      onKeyDown={(event) => event.key === "Escape" && type("")}
    />
  );
}

/** Leaf through the pages of a long list. */
export function JobPages({ listing }: { listing: Listing }) {
  const { page, wish, want } = listing;
  if (!page || page.count <= page.page_size) return null;
  const last = Math.ceil(page.count / page.page_size) - 1;
  const now = Math.min(wish.page, last);
  return (
    <nav className={css.pages} aria-label="Pages of the list">
      <Press className="link" why={now === 0 && "this is the first page"} onClick={() => want({ page: now - 1 })}>
        Earlier page
      </Press>
      <span className="number">
        {now * page.page_size + 1} to {Math.min((now + 1) * page.page_size, page.count)} of {page.count}
      </span>
      <Press className="link" why={now === last && "this is the last page"} onClick={() => want({ page: now + 1 })}>
        Next page
      </Press>
    </nav>
  );
}
