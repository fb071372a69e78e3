import { parseAsString, useQueryState } from "nuqs";
import { useMemo } from "react";

/** The part of a system that is looked at, as labels: a namespace, a pod, a queue. It lives in the URL. */
export function usePart() {
  const [word, setWord] = useQueryState(
    "part",
    parseAsString.withDefault("").withOptions({ history: "push" }),
  );
  const part = useMemo(() => Object.fromEntries(new URLSearchParams(word)), [word]);
  const setPart = (labels: Record<string, string>) => {
    const next = new URLSearchParams(labels).toString();
    setWord(next === "" ? null : next);
  };
  return { part, setPart };
}
