import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { api } from "../../api/client";
import { tell, type JobHandle } from "../../api/useJob";
import type { PairOffer } from "../../api/types";
import { Press } from "../../blocks/Press";
import { Head, sheetCss } from "../../blocks/Sheet";
import { lookAt, pairsOf } from "./lookedAt";
import css from "./Fit.module.css";
import { clearance, sizesOf } from "./words";

const FEW = 6;

const keyOf = (one: PairOffer) => [one.kind, one.a, one.b, one.a_feature, one.b_feature].join();

/** Places that nearly go together and are no pair yet; one press keeps one. */
export function Offers({ handle }: { handle: JobHandle }) {
  const { view } = handle;
  const [all, showAll] = useState(false);
  const { data, isFetching } = useQuery({
    queryKey: ["offers", view.id, view.number],
    queryFn: () => api.offers(view.id),
    placeholderData: (before) => before,
  });
  // What was just kept is offered no more, before the server is asked again.
  const [kept, note] = useState<string[]>([]);
  useEffect(() => note([]), [data]);
  const open = data?.filter((one) => !kept.includes(keyOf(one)));
  const shown = all ? open : open?.slice(0, FEW);
  const keep = async (offer: PairOffer) => {
    note((now) => [...now, keyOf(offer)]);
    const after = await handle.act({
      do: "pair-up",
      kind: offer.kind,
      a: offer.a,
      b: offer.b,
      a_feature: offer.a_feature,
      b_feature: offer.b_feature,
      intent: offer.suits ?? "slides",
    });
    const last = pairsOf(after).at(-1);
    lookAt(last ? { pair: last.id } : null);
  };
  return (
    <section aria-label="Offered pairs">
      <Head title="Found in the bodies">{isFetching && !data ? "looking …" : open && `${open.length}`}</Head>
      {open?.length === 0 && <p className={sheetCss.text}>Nothing else lies in, on or across from anything.</p>}
      {shown?.map((offer) => (
        <div key={keyOf(offer)} className={css.offer} data-body={`${offer.a} ${offer.b}`}>
          <span>
            {offer.kind}
            <small>
              {[...new Set(offer.names)].join(" and ")}; {sizesOf(offer)} at{" "}
              {offer.at.map((one) => Math.round(one) + 0).join(", ")}
              {offer.says && `; ${offer.says}`}
            </small>
          </span>
          <span className="number">{clearance(offer.clearance_mm)} mm</span>
          <Press className="link" onClick={() => void keep(offer).catch(tell)}>
            Keep
          </Press>
        </div>
      ))}
      {(open?.length ?? 0) > FEW && (
        <Press className={`link ${css.more}`} onClick={() => showAll(!all)}>
          {all ? "Show fewer" : `Show all ${open!.length}`}
        </Press>
      )}
    </section>
  );
}
