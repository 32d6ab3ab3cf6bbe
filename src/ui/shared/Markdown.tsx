import { type ComponentProps, memo, useRef, useState } from "react";
import ReactMarkdown from "react-markdown";
import rehypeHighlight from "rehype-highlight";
import remarkGfm from "remark-gfm";
import styles from "./Markdown.module.css";
import { blocksOf } from "./markdown-blocks";

/** Characters of code above which a fence is coloured only once it is whole. */
const longFence = 4000;

/**
 * A model's Markdown, which is not trusted: no HTML of its own, no remote pictures, links that
 * give nothing away. While it arrives only its last block is read again.
 */
export function Markdown({ text, arriving = false }: { text: string; arriving?: boolean }) {
  const blocks = blocksOf(text);
  return (
    <div className={styles.markdown} data-arriving={arriving}>
      {blocks.map((block, at) => (
        // blocks only ever grow at the end, so their place is what they are
        <Block key={at} text={block} plain={arriving && at === blocks.length - 1 && block.length > longFence} />
      ))}
    </div>
  );
}

const Block = memo(function Block({ text, plain }: { text: string; plain: boolean }) {
  return (
    <ReactMarkdown remarkPlugins={[remarkGfm]} rehypePlugins={plain ? [] : [rehypeHighlight]} components={components}>
      {text}
    </ReactMarkdown>
  );
});

const components: ComponentProps<typeof ReactMarkdown>["components"] = {
  a: ({ href, children }) => (
    <a href={href} target="_blank" rel="noopener noreferrer">
      {children}
    </a>
  ),
  img: ({ alt, src }) => <span className={styles.picture}>[picture: {alt || String(src ?? "")}]</span>,
  pre: Fence,
  table: ({ children }) => (
    // biome-ignore lint/a11y/noNoninteractiveTabindex: a region that scrolls must be reachable by key
    <section className={styles.scroll} tabIndex={0} aria-label="Table">
      <table>{children}</table>
    </section>
  ),
};

function Fence({ children }: ComponentProps<"pre">) {
  const code = useRef<HTMLPreElement>(null);
  const [copied, setCopied] = useState(false);
  const copy = async () => {
    await navigator.clipboard.writeText(code.current?.textContent ?? "");
    setCopied(true);
  };
  return (
    <div className={styles.fence}>
      <button type="button" className="link" onClick={copy}>
        {copied ? "copied" : "copy"}
      </button>
      {/* biome-ignore lint/a11y/noNoninteractiveTabindex: a region that scrolls must be reachable by key */}
      <pre ref={code} tabIndex={0}>
        {children}
      </pre>
    </div>
  );
}
