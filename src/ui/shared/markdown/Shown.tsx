import { createElement, type ReactNode, use } from "react";
import { Dressed, type TextDress } from "./dress";
import { Fence } from "./Fence";
import type { CutFence } from "./fences";
import { type Mark, marksWithin } from "./marks";
import { Stretches } from "./Stretches";
import { cellEnd, type Element, endOf, type Node } from "./tree";

interface Props {
  nodes: readonly Node[];
  /** Counted in the words that the nodes show, as `shownWords` gives them. */
  marks: readonly Mark[];
  /** Whether more may come at their end. */
  isOpen: boolean;
  /** The fence that they are a part of. */
  cut?: CutFence;
}

/** What was read of a block, as elements of the page, with its marks. */
export function Shown({ nodes, marks, isOpen, cut }: Props): ReactNode {
  const dress = use(Dressed);
  return new Pen(marks, isOpen, cut, dress).all(nodes);
}

/** Goes through the words of a block in their order, so that each gets its marks. */
class Pen {
  /** Characters that were gone through. */
  private at = 0;

  constructor(
    private readonly marks: readonly Mark[],
    private readonly isOpen: boolean,
    private readonly cut: CutFence | undefined,
    private readonly dress: TextDress,
  ) {}

  all(nodes: readonly Node[]): ReactNode[] {
    return nodes.map((node, at) => {
      if (typeof node === "string") return this.words(node, at);
      const shown = this.element(node, at);
      this.at += endOf(node.tag).length;
      return shown;
    });
  }

  private words(text: string, key: number): ReactNode {
    const marks = this.within(text.length);
    return marks.length === 0 ? text : <Stretches key={key} text={text} marks={marks} />;
  }

  /** The marks in the next so many characters, which are gone through by this. */
  private within(length: number): readonly Mark[] {
    const marks = this.marks.length === 0 ? this.marks : marksWithin(this.marks, this.at, length);
    this.at += length;
    return marks;
  }

  private element(node: Element, key: number): ReactNode {
    switch (node.tag) {
      case "hr":
      case "br":
        return createElement(node.tag, { key });
      case "task":
        return <input key={key} type="checkbox" checked={node.isDone} readOnly disabled aria-label="Done" />;
      case "ol":
        return (
          <ol key={key} start={node.start}>
            {this.all(node.children)}
          </ol>
        );
      case "th":
      case "td":
        return createElement(
          node.tag,
          { key, style: node.align ? { textAlign: node.align } : undefined },
          ...this.all(node.children),
        );
      case "tr":
        return <tr key={key}>{this.cells(node.children)}</tr>;
      case "a":
        return (
          <a key={key} href={node.href} target="_blank" rel="noopener noreferrer">
            {this.all(node.children)}
          </a>
        );
      case "table":
        return (
          // biome-ignore lint/a11y/noNoninteractiveTabindex: a region that scrolls must be reachable by key
          <section key={key} className={this.dress.scroll} data-scroll tabIndex={0} aria-label="Table">
            <table>{this.all(node.children)}</table>
          </section>
        );
      case "fence":
        return (
          <Fence
            key={key}
            text={node.text}
            language={node.language}
            marks={this.within(node.text.length)}
            isOpen={this.isOpen}
            cut={this.cut}
          />
        );
      default:
        return createElement(node.tag, { key }, ...this.all(node.children));
    }
  }

  private cells(cells: readonly Node[]): ReactNode[] {
    return cells.map((cell, at) => {
      if (at > 0) this.at += cellEnd.length;
      return typeof cell === "string" ? cell : this.element(cell, at);
    });
  }
}
