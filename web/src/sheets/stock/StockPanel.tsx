import { Checkbox } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api } from "../../api/client";
import { tell, type JobHandle } from "../../api/useJob";
import type { StockView } from "../../api/types";
import { Segments } from "../../blocks/Choice";
import { Fold } from "../../blocks/Fold";
import { fileNumber } from "../../blocks/numbers";
import { Press } from "../../blocks/Press";
import { TypedField } from "../../blocks/TypedField";
import { StockDrawing } from "./StockDrawing";
import css from "./Stock.module.css";

const EXAMPLES = ["M5x20 socket", "nut M5", "tube 140.3 x 136 x 60", "bearing 608", "box 60x40x20,2", "gear m1 z20 w8"];
const PURPOSES = [
  ["check", "to check against"],
  ["print", "to print"],
] as const;

interface Props {
  handle: JobHandle;
  /** The sheet that it stands on: each remembers by itself whether it is open. */
  place: "intake" | "fit";
}

/** Standard parts and stock: typed, drawn with their dimensions, and made as bodies of the job. */
export function StockPanel({ handle, place }: Props) {
  const [text, type] = useState("");
  const [threaded, thread] = useState(false);
  const [clearance, give] = useState("");
  const { data: part } = useQuery({
    queryKey: ["stock", handle.view.id, text, threaded, clearance],
    queryFn: () => api.stock(handle.view.id, text, threaded, clearance),
    enabled: !!text,
    retry: false,
    placeholderData: (known) => known,
  });
  // What is no part is told at the field, and the part before stays.
  const take = async (typed: string) => {
    if (typed.trim()) await api.stock(handle.view.id, typed, threaded, clearance);
    type(typed.trim());
  };
  return (
    <Fold title="Make a standard part" name={`stock-${place}`} says="bolts, nuts, tubes, bearings, boxes, gears">
      <div className={css.typing}>
        <TypedField
          label="Standard part"
          value={text}
          placeholder="M5x20, nut M6, tube 50x46x60"
          width={268}
          commit={take}
          words
        />
        <span className="soft">Enter draws it</span>
      </div>
      {text && part ? (
        <>
          <PartDrawn part={part} />
          {part.has_thread && (
            <div className={css.options}>
              <Checkbox label="cut the thread" checked={threaded} onChange={() => thread(!threaded)} />
              {threaded && (
                <>
                  <span>clearance</span>
                  <TypedField
                    label="Clearance of the thread"
                    value={clearance}
                    placeholder="0"
                    width={64}
                    commit={async (typed) => {
                      await api.stock(handle.view.id, text, threaded, typed);
                      give(typed.trim());
                    }}
                  />
                  <span className="soft">mm in diameter, on this part</span>
                </>
              )}
            </div>
          )}
          <Making handle={handle} part={part} threaded={threaded} clearance={clearance} />
        </>
      ) : (
        <Listed take={(row) => void take(row).catch(tell)} />
      )}
    </Fold>
  );
}

/** What a part would be: its drawing, its dimensions, its standard, and what is odd about it. */
function PartDrawn({ part }: { part: StockView }) {
  return (
    <>
      <div className={css.drawing}>
        <StockDrawing part={part} />
      </div>
      <p className={css.name}>
        <b>{part.name}</b>
        <small>{part.table}</small>
      </p>
      <div className={css.dimensions} role="list" aria-label="Dimensions">
        {part.dimensions.flatMap((row, i) => [
          <i key={`${i}a`}>{row.letter}</i>,
          <span key={`${i}b`} role="listitem">
            {row.says}
          </span>,
          <span key={`${i}c`} className="number">
            {row.round ? "ø " : ""}
            {fileNumber(Number(row.mm.toFixed(4)))} mm
          </span>,
        ])}
      </div>
      {(part.notes.length > 0 || part.pairs!.length > 0) && (
        <ul className={css.notes}>
          {part.notes.map((note) => (
            <li key={note} className="look">
              {note}
            </li>
          ))}
          {part.pairs!.map((says) => (
            <li key={says}>{says}</li>
          ))}
        </ul>
      )}
    </>
  );
}

interface MakingProps extends Pick<Props, "handle"> {
  part: StockView;
  threaded: boolean;
  clearance: string;
}

/** Make a part, to check against or to be printed: what is bought is the first, boxes and gears the second. */
function Making({ handle, part, threaded, clearance }: MakingProps) {
  const printed = ["box", "gear", "block", "angle"].includes(part.kind);
  const [purpose, mean] = useState<"check" | "print" | null>(null);
  const meant = purpose ?? (printed ? "print" : "check");
  const make = () =>
    handle.change((on) =>
      api.task(handle.view.id, on, {
        do: "make-stock",
        text: part.name,
        threaded: threaded && part.has_thread,
        clearance,
        for_checking: meant === "check",
      }),
    );
  return (
    <div className={css.make}>
      <Segments label="What it is for" value={meant} options={PURPOSES} choose={mean} />
      <Press look="main" onClick={() => make().catch(tell)}>
        Make it
      </Press>
    </div>
  );
}

/** What there is, as a search finds it; a press takes one. */
function Listed({ take }: { take: (text: string) => void }) {
  const [search, look] = useState("");
  const { data } = useQuery({
    queryKey: ["stock-list", search],
    queryFn: () => api.stockList(search),
    enabled: !!search,
  });
  return (
    <>
      <div className={css.examples}>
        {EXAMPLES.map((text) => (
          <Press key={text} className="link" onClick={() => take(text)}>
            {text}
          </Press>
        ))}
      </div>
      <div className={css.typing}>
        <TypedField
          label="Search the list"
          value={search}
          placeholder="search the list: socket M5, 608"
          width={268}
          commit={(typed) => Promise.resolve(look(typed.trim()))}
          words
        />
        <span className="soft">{data && `${data.rows.length + data.more} lines`}</span>
      </div>
      {data && (
        <div className={css.found}>
          {data.rows.map((row) => (
            <Press key={row.text + row.says} onClick={() => take(row.text.replace("…", "20"))}>
              {row.text}
              <small>{[row.says, row.table].filter(Boolean).join("; ")}</small>
            </Press>
          ))}
        </div>
      )}
    </>
  );
}
