import "katex/dist/katex.min.css";
import Markdown from "react-markdown";
import rehypeKatex from "rehype-katex";
import remarkBreaks from "remark-breaks";
import remarkMath from "remark-math";

/** CommonMark without HTML and pictures; a link leads out of the application in a tab of its own. */
export function MarkedUp({ text, literal = false }: { text: string; literal?: boolean }) {
  return (
    <Markdown
      remarkPlugins={[remarkMath, remarkBreaks]}
      rehypePlugins={[[rehypeKatex, { output: "htmlAndMathml", trust: false, maxExpand: 200 }]]}
      disallowedElements={["img"]}
      unwrapDisallowed
      skipHtml={!literal}
      components={{
        h1: "h2",
        h3: "h2",
        a: ({ href, children }) => (
          <a href={href} target="_blank" rel="noreferrer">
            {children}
          </a>
        ),
      }}
    >
      {text}
    </Markdown>
  );
}
