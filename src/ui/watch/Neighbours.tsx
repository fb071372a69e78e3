"use client";

import { Text } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { Fragment } from "react";
import type { Dependency } from "@/server/services/systems";
import { api } from "../api";
import { Link } from "../Link";
import { useHref } from "../state/view";

/** What a system depends on, and what depends on it. */
export function useDependencies(system: string) {
  return useQuery({
    queryKey: ["dependencies", system],
    queryFn: () =>
      api<{ dependencies: Dependency[] }>("GET", `/api/v1/systems/${encodeURIComponent(system)}/parts`).then(
        (answer) => answer.dependencies,
      ),
    staleTime: 30_000,
  });
}

const SHOWN = 3;

/** In a line: what it runs on, what it reads from, and who reads from it. */
export function Neighbours({ system }: { system: string }) {
  const { data = [] } = useDependencies(system);
  const of = (kind: Dependency["kind"], from: boolean) =>
    data
      .filter((one) => one.kind === kind && (from ? one.from : one.to) === system)
      .map((one) => (from ? one.to : one.from));
  return (
    <>
      <Named words="runs on" names={of("runs-on", true)} />
      <Named words="reads from" names={of("reads-from", true)} />
      <Named words="read by" names={of("reads-from", false)} />
    </>
  );
}

function Named({ words, names }: { words: string; names: string[] }) {
  const href = useHref();
  if (names.length === 0) return null;
  return (
    <Text as="span">
      {` · ${words} `}
      {names.slice(0, SHOWN).map((name, i) => (
        <Fragment key={name}>
          {i > 0 && ", "}
          <Link href={href("/watch", { scope: name })} style={{ textDecoration: "underline" }}>
            {name}
          </Link>
        </Fragment>
      ))}
      {names.length > SHOWN && ` and ${names.length - SHOWN} more`}
    </Text>
  );
}
