import type { Block } from "./cut";

/** A fence that was cut into parts, of which a block is one. */
export interface CutFence {
  /** Characters of it before this part. */
  after: number;
  /** All of its code. */
  text: () => string;
  /** Whether it has at most so many characters. */
  isWithin: (most: number) => boolean;
}

/** The fence that a block is a part of; undefined for one that is none. */
export function cutFenceOf({ fence, after = 0 }: Block, all: () => readonly Block[]): CutFence | undefined {
  if (fence === undefined) return undefined;
  const parts = () => all().filter((block) => block.fence === fence);
  return {
    after,
    text: () =>
      parts()
        .map(({ text }) => text)
        .join(""),
    isWithin: (most) => {
      if (after > most) return false;
      const last = parts().at(-1);
      return (last?.after ?? 0) + (last?.text.length ?? 0) <= most;
    },
  };
}
