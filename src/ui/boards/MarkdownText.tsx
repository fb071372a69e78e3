import Markdown from "react-markdown";
import rehypeSanitize from "rehype-sanitize";
import remarkGfm from "remark-gfm";

/**
 * Markdown by CommonMark, with GitHub's tables and lists of tasks. HTML in the text is shown as text, never rendered;
 * what Markdown makes is sanitised on top of it, so that no address carries a script.
 */
export function MarkdownText({ markdown }: { markdown: string }) {
  return (
    <Markdown remarkPlugins={[remarkGfm]} rehypePlugins={[rehypeSanitize]}>
      {markdown}
    </Markdown>
  );
}
