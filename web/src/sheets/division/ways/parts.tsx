import { useState, type ReactNode } from "react";
import { api } from "../../../api/client";
import type { DivisionRequest, Axis } from "../../../api/types";
import { tell, type JobHandle } from "../../../api/useJob";
import { Segments } from "../../../blocks/Choice";
import { Press } from "../../../blocks/Press";
import { TypedField } from "../../../blocks/TypedField";
import css from "../Division.module.css";
import type { Dividing } from "../useDivision";

export interface Way {
  handle: JobHandle;
  dividing: Dividing;
  busy: boolean;
}

const AXES = [
  ["x", "X"],
  ["y", "Y"],
  ["z", "Z"],
] as const;

/** Ask for a body to be made into others. */
export function useShaping({ handle, dividing }: Way) {
  const { view } = handle;
  return (asked: DivisionRequest, ...others: string[]) =>
    handle
      .change((on) => api.task(view.id, on, { do: "shape", bodies: [dividing.body.id, ...others], instead: "", asked }))
      .catch(tell);
}

/** A text that a field holds until it is used. */
export function useTyped(first: string) {
  const [text, put] = useState(first);
  return [text, async (typed: string) => put(typed.trim())] as const;
}

/** What a way asks for, row by row. */
export const Rows = ({ children }: { children: ReactNode }) => <dl className={css.fields}>{children}</dl>;

export function Row({ says, children }: { says: string; children: ReactNode }) {
  return (
    <>
      <dt>{says}</dt>
      <dd>{children}</dd>
    </>
  );
}

export function AxisRow({
  says,
  label,
  value,
  choose,
}: {
  says: string;
  label: string;
  value: Axis;
  choose: (axis: Axis) => void;
}) {
  return (
    <Row says={says}>
      <Segments label={label} value={value} options={AXES} choose={(one) => choose(one as Axis)} width={120} />
    </Row>
  );
}

interface LengthProps {
  says: string;
  label: string;
  value: string;
  put: (typed: string) => Promise<unknown>;
  placeholder?: string;
}

export function LengthRow({ says, label, value, put, placeholder }: LengthProps) {
  return (
    <Row says={says}>
      <TypedField label={label} value={value} placeholder={placeholder} width={76} commit={put} /> mm
    </Row>
  );
}

export function Do({
  says,
  why,
  act,
  children,
}: {
  says: string;
  /** Why it cannot be done now. */
  why: string | false;
  act: () => unknown;
  children?: ReactNode;
}) {
  return (
    <div className={css.line}>
      <Press look="box" why={why} onClick={act}>
        {says}
      </Press>
      {children}
    </div>
  );
}

/** Why something cannot be done now: work that goes on, else what is missing. */
export const busyOr = (busy: boolean, missing: string | false = false): string | false =>
  busy ? "the work before is not done yet" : missing;
