import { useQuery } from "@tanstack/react-query";
import { api } from "../api/client";
import type { JobLine } from "../api/types";
import css from "./Jobs.module.css";

/** A job at a glance, in ink: drawn by the server from its own bodies. It says nothing that the row does not. */
export function Thumbnail({ row }: { row: JobLine }) {
  const { data } = useQuery({
    queryKey: ["thumbnail", row.id, row.number],
    queryFn: () => api.thumbnail(row.id, row.number),
    enabled: row.triangles > 0,
    staleTime: Infinity,
    retry: 2,
  });
  const drawn = data ? { backgroundImage: "none", maskImage: maskOf(data) } : undefined;
  return <span className={css.thumbnail} data-drawn={data ? "yes" : "no"} style={drawn} aria-hidden />;
}

/** The lines as a mask, so that they have the ink of the theme. */
const maskOf = (svg: string) => `url("data:image/svg+xml,${encodeURIComponent(svg)}")`;
