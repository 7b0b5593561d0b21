import { Checkbox, Tooltip } from "@mantine/core";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api } from "../../api/client";
import { tell } from "../../api/useJob";
import type { Patterns, FilePreview, Preview } from "../../api/types";
import { Fold } from "../../blocks/Fold";
import { Press } from "../../blocks/Press";
import { TypedField } from "../../blocks/TypedField";
import css from "./ReleaseSheet.module.css";
import type { Order } from "./useOrder";

const SHOWN = 6;

/** The names that files will have, by a pattern of fields, as they come to be while it is typed. */
export function Names({
  preview,
  order,
  set,
}: {
  preview: Preview | undefined;
  order: Order;
  set: (change: Partial<Order>) => void;
}) {
  const cache = useQueryClient();
  const { data: known } = useQuery({ queryKey: ["patterns"], queryFn: api.patterns });
  const [every, showEvery] = useState(false);
  const files = preview?.files ?? [];
  const [first] = files;
  const says = files.length > 1 ? `${first!.name} and ${files.length - 1} more` : (first?.name ?? "");
  const pattern = order.pattern || preview?.pattern || "";
  const forget = (one: string) =>
    void api
      .forgetPattern(one)
      .then(() => cache.invalidateQueries({ queryKey: ["patterns"] }))
      .catch(tell);
  return (
    <Fold title="Names" name="release-names" says={says}>
      <PatternField pattern={pattern} set={set} order={order} />
      <div className={css.fields} role="group" aria-label="Fields">
        {Object.entries(known?.fields ?? {}).map(([field, stands]) => (
          <Tooltip key={field} label={stands} openDelay={300}>
            <Press
              onClick={() => set({ pattern: `${pattern}${pattern && !/[-_. ]$/.test(pattern) ? "_" : ""}{${field}}` })}
            >
              {field}
            </Press>
          </Tooltip>
        ))}
      </div>
      {(known?.used.length ?? 0) > 0 && <UsedPatterns known={known} set={set} forget={forget} />}
      {preview?.shortens && (
        <div className={css.lines}>
          <Checkbox
            label={`shortened to the machine's display, ${preview.shortens} characters`}
            checked={order.short}
            onChange={(event) => set({ short: event.target.checked })}
          />
        </div>
      )}
      <NamesOfFiles every={every} files={files} showEvery={showEvery} />
    </Fold>
  );
}

/** The patterns that were used before. */
function UsedPatterns({
  known,
  set,
  forget,
}: {
  known: Patterns | undefined;
  set: (change: Partial<Order>) => void;
  forget: (one: string) => void;
}) {
  return (
    <ul className={css.used} aria-label="Patterns used before">
      {known!.used.slice(0, 4).map((one) => (
        <li key={one}>
          <Press className="link" onClick={() => set({ pattern: one })}>
            {one}
          </Press>
          <Press className="link soft" aria-label={`Remove ${one}`} onClick={() => forget(one)}>
            remove
          </Press>
        </li>
      ))}
    </ul>
  );
}

/** The pattern of names, typed. */
function PatternField({
  pattern,
  set,
  order,
}: {
  pattern: string;
  set: (change: Partial<Order>) => void;
  order: Order;
}) {
  return (
    <div className={css.pattern}>
      <TypedField
        value={pattern}
        label="Pattern of names"
        words
        width={286}
        commit={(typed) => Promise.resolve(set({ pattern: typed.trim() }))}
      />
      {order.pattern && (
        <Press className="link" onClick={() => set({ pattern: "" })}>
          The usual
        </Press>
      )}
    </div>
  );
}

/** The names that the files will have. */
function NamesOfFiles({
  every,
  files,
  showEvery,
}: {
  every: boolean;
  files: FilePreview[];
  showEvery: (value: boolean) => void;
}) {
  return (
    <ol className={css.names} aria-label="Names of the files">
      {(every ? files : files.slice(0, SHOWN)).map((file) => (
        <li key={file.name}>
          <span>{file.name}</span>
          {file.count > 1 && <small>for {file.count}</small>}
          {file.full_name !== file.name && <small title={file.full_name}>in full {file.full_name}</small>}
        </li>
      ))}
      {!every && files.length > SHOWN && (
        <li>
          <Press className="link" onClick={() => showEvery(true)}>
            and {files.length - SHOWN} more
          </Press>
        </li>
      )}
    </ol>
  );
}
