"use client";

import { chakra } from "@chakra-ui/react";
import hljs from "highlight.js/lib/core";
import pgsql from "highlight.js/lib/languages/pgsql";
import { useMemo } from "react";
import { format } from "sql-formatter";

hljs.registerLanguage("pgsql", pgsql);

/** A query, laid out and with its words told apart by weight and colour. */
export function Statement({ text }: { text: string }) {
  const html = useMemo(() => {
    let laidOut = text;
    try {
      laidOut = format(text, { language: "postgresql", keywordCase: "preserve", tabWidth: 2 });
    } catch {
      // What the formatter cannot read is shown as it came.
    }
    // highlight.js escapes what it is given and adds spans only.
    return hljs.highlight(laidOut, { language: "pgsql" }).value;
  }, [text]);
  return (
    <chakra.pre
      fontFamily="mono"
      fontSize="12.5px"
      whiteSpace="pre-wrap"
      overflowWrap="anywhere"
      maxH="320px"
      overflowY="auto"
      tabIndex={0}
      role="region"
      aria-label="Text of the query"
      css={{
        "& .hljs-keyword, & .hljs-built_in": { color: "var(--chakra-colors-spruce)", fontWeight: 700 },
        "& .hljs-string, & .hljs-number": { color: "var(--chakra-colors-today)" },
        "& .hljs-comment": { color: "var(--chakra-colors-soft)", fontStyle: "italic" },
      }}
      // biome-ignore lint/security/noDangerouslySetInnerHtml: escaped by highlight.js, see above
      dangerouslySetInnerHTML={{ __html: html }}
    />
  );
}
