import { Term } from "../../house/Term";
import { Columns } from "../../blocks/Columns";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, Problem } from "../../api/client";
import { tell, type JobHandle } from "../../api/useJob";
import { drawStrokes } from "../../bench/strokes";
import { rounded } from "../../blocks/numbers";
import { Press } from "../../blocks/Press";
import { Head, sheetCss } from "../../blocks/Sheet";
import { TypedField } from "../../blocks/TypedField";
import type { Selection } from "../../job/useSelection";
import type { BodyWalls, Vec3 } from "../../api/types";
import { sentence } from "../../blocks/words";
import css from "./Fit.module.css";
import { lookAt } from "./lookedAt";

/** How thick the walls of every body are, measured over the whole surface when it is asked for. */
export function Walls({ handle, mark }: { handle: JobHandle; mark: Selection["mark"] }) {
  const { view } = handle;
  const [asked, ask] = useState(false);
  const [under, type] = useState("");
  const { data, isFetching, error } = useQuery({
    queryKey: ["walls", view.id, view.number, under],
    queryFn: () => api.walls(view.id, under),
    enabled: asked,
    placeholderData: (before) => before,
  });
  const draw = ({ id, body }: { id: string; body: string }) =>
    api.drawnWalls(view.id, id, under).then((surface) => {
      drawStrokes({ body: id, title: `walls of ${body}`, surface });
      lookAt(null);
    }, tell);
  const show = (body: string, point: Vec3) => {
    lookAt(null);
    mark([{ body, source: null, point }]);
  };
  return (
    <section aria-label="Walls">
      <Head title="Walls">
        {asked ? (
          isFetching && "measuring …"
        ) : (
          <Press className="link" onClick={() => ask(true)}>
            Measure them
          </Press>
        )}
      </Head>
      {asked && (
        <div className={css.band}>
          <span>thin is under</span>
          <TypedField
            label="Thin is under"
            value={under}
            placeholder="two beads"
            width={90}
            commit={async (typed) => type(typed)}
          />
          <span className="soft">
            mm, or 3 <Term of="bead">beads</Term>
          </span>
        </div>
      )}
      {error && (
        <p className="stop" role="alert">
          {error instanceof Problem ? sentence(error.line) : "The walls cannot be told"}
        </p>
      )}
      {data && <WallTable data={data} show={show} draw={draw} />}
    </section>
  );
}

/** The walls of all bodies, a row each. */
function WallTable({
  data,
  show,
  draw,
}: {
  data: BodyWalls[];
  show: (body: string, point: Vec3) => void;
  draw: (__0: { id: string; body: string }) => Promise<unknown>;
}) {
  return (
    <table className={`${sheetCss.table} ${css.must}`} aria-label="Walls">
      <Columns
        of={[
          "Body",
          { numbers: "least, mm" },
          { numbers: "beads" },
          { numbers: "thin" },
          { unseen: "what can be done" },
        ]}
      />
      <tbody>
        {data.map((row) => (
          <tr key={row.id} data-body={row.id}>
            <td>
              {row.place ? (
                <Press
                  className={css.place}
                  title="show where it is the thinnest"
                  onClick={() => show(row.id, row.place as Vec3)}
                >
                  {row.body}
                </Press>
              ) : (
                row.body
              )}
            </td>
            <td className={`${sheetCss.r} number`}>
              {row.least_mm === null ? "–" : rounded(row.least_mm!, 2)}
              {row.ball_mm !== null && <small>ball {rounded(row.ball_mm!, 2)}</small>}
            </td>
            <td className={`${sheetCss.r} number`}>
              {row.beads === null ? "–" : rounded(row.beads!, 1)}
              {!!row.void_mm && <small>{rounded(row.void_mm, 2)} void</small>}
            </td>
            <td className={`${sheetCss.r} number ${row.share_under ? "look" : ""}`}>
              {rounded(100 * row.share_under, 1)} %
            </td>
            <td>
              <Press className="link" aria-label={`Draw the walls of ${row.body}`} onClick={() => void draw(row)}>
                Draw
              </Press>
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
