import { useRef, type RefObject } from 'react';

/** What was given last, for effects that use it but are not begun anew when it changes. */
export function useLatest<T>(value: T): RefObject<T> {
  const latest = useRef(value);
  latest.current = value;
  return latest;
}
