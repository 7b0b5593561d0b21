import { Link } from "wouter";
import { Head, Sheet, sheetCss } from "../../blocks/Sheet";

const WHAT = {
  fit: {
    title: "Fit",
    says: "Clearances, walls and whatever must not scale: standard bores, gaps between mating parts, walls of at least two beads.",
    next: "division",
  },
} as const;

/** A sheet that is not built yet: it says what it will do, and does not stand in the way. */
export function LaterSheet({ sheet, job }: { sheet: keyof typeof WHAT; job: string }) {
  const { title, says, next } = WHAT[sheet];
  return (
    <Sheet label={title}>
      <Head title={title} />
      <p className={sheetCss.text}>{says}</p>
      <div className={sheetCss.notice} style={{ borderColor: "var(--rule)" }}>
        <strong>This sheet comes later</strong>
        <p>Nothing here is needed for a release. The body goes on as it is.</p>
        <Link className="link" href={`/jobs/${job}/${next}`}>
          Go on to Division
        </Link>
      </div>
    </Sheet>
  );
}
