// @ts-expect-error the package brings no types
import spec from "commonmark-spec";
import { createElement } from "react";
import { renderToStaticMarkup } from "react-dom/server";
import { describe, expect, it } from "vitest";
import { MarkdownText } from "./MarkdownText";

const rendered = (markdown: string) => renderToStaticMarkup(createElement(MarkdownText, { markdown }));

/** HTML without what carries no meaning: how characters are escaped, and white space around blocks. */
function meaning(html: string): string {
  return html
    .replace(/&quot;/g, '"')
    .replace(/&#x27;|&#39;/g, "'")
    .replace(/<(br|hr|img)([^>]*?)\s*\/?>/g, "<$1$2>")
    .replace(/\s+/g, " ")
    .replace(/ ?(<\/?(p|ul|ol|li|blockquote|pre|h[1-6]|hr|br)\b[^>]*>) ?/g, "$1")
    .trim();
}

interface Example {
  number: number;
  section: string;
  markdown: string;
  html: string;
}

// Source: the examples of the CommonMark Spec 0.31.2, as the package commonmark-spec carries them.
const EXAMPLES: Example[] = (spec as { tests: Example[] }).tests.map((one) => ({
  ...one,
  // The specification writes tabs as arrows.
  markdown: one.markdown.replaceAll("→", "\t"),
  html: one.html.replaceAll("→", "\t"),
}));

/** What this product does otherwise on purpose: raw HTML is not rendered, GitHub's extensions are, addresses are kept to known schemes. */
const OTHERWISE = new Set([
  "HTML blocks",
  "Raw HTML",
  "Autolinks",
  "Links",
  "Images",
  "Link reference definitions",
]);

describe("Markdown", () => {
  it("is CommonMark's own, example by example", () => {
    const plain = EXAMPLES.filter(
      ({ section, markdown, html }) =>
        !OTHERWISE.has(section) && !/<[a-z/!?]/i.test(markdown) && !/<a |<img/.test(html),
    );
    expect(plain.length).toBeGreaterThan(350);
    const wrong = plain.filter(({ markdown, html }) => meaning(rendered(markdown)) !== meaning(html));
    expect(wrong.map(({ number, section }) => `${number} ${section}`)).toEqual([]);
  });
  it("knows links and pictures by address, and tables", () => {
    expect(rendered("[quay](https://quay.example/plan 'the plan')")).toContain(
      '<a href="https://quay.example/plan"',
    );
    expect(rendered("![plan](https://quay.example/plan.png)")).toContain(
      '<img src="https://quay.example/plan.png" alt="plan"',
    );
    expect(rendered("| a | b |\n|---|---|\n| 1 | 2 |")).toContain("<td>1</td>");
  });
  it("renders no script, whichever way it is put in", () => {
    for (const attack of [
      "<script>alert(1)</script>",
      "<img src=x onerror=alert(1)>",
      "[a](javascript:alert(1))",
      "[a](JaVaScRiPt:alert(1))",
      "![a](data:text/html;base64,PHNjcmlwdD4=)",
      "[a](vbscript:x)",
      "<a href='javascript:alert(1)'>a</a>",
      "<iframe src='https://x.example'></iframe>",
      "[a]: javascript:alert(1)\n\n[a]",
    ]) {
      const html = rendered(attack);
      // What is left of it is text: every remaining angle bracket belongs to an element that is allowed.
      expect(html, attack).not.toMatch(
        /<(script|iframe|object|svg)|\son\w+=|(href|src)="(javascript|vbscript|data):/i,
      );
    }
  });
});
