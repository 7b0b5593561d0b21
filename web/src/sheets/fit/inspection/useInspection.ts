import { useQuery } from "@tanstack/react-query";
import { api } from "../../../api/client";
import type { InspectionView, JobView } from "../../../api/types";

/** What was measured on printed parts of a job; the last that was known while it is asked for anew. */
export function useInspection(view: JobView): InspectionView | undefined {
  const { data } = useQuery({
    queryKey: ["inspection", view.id, view.number],
    queryFn: () => api.inspection(view.id),
    placeholderData: (before) => before,
  });
  return data;
}
