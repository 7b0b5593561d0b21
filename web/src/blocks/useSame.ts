import { useRef } from "react";

/** A value with the same fields as at the last drawing is the same object, so that what depends on it is left alone. */
export function useSame<T extends object>(value: T | null): T | null {
  const last = useRef<T | null>(null);
  const before = last.current;
  const same =
    before && value && Object.keys(value).every((key) => Object.is(before[key as keyof T], value[key as keyof T]));
  if (!same) last.current = value;
  return last.current;
}
