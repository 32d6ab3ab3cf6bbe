const fence = /^ {0,3}(`{3,}|~{3,})/;
const listItem = /^ {0,3}(?:[-*+]|\d{1,9}[.)])\s/;

/**
 * Cuts Markdown into blocks that can be read one by one: at blank lines, but never inside a fence
 * or a list. All but the last stay the same when text is added at the end.
 */
export function blocksOf(text: string): string[] {
  const blocks: string[] = [];
  let block: string[] = [];
  let open: string | undefined;
  let blank = false;
  for (const line of text.split("\n")) {
    const mark = fence.exec(line)?.[1];
    const continuesList = block.some((each) => listItem.test(each)) && (listItem.test(line) || /^\s+\S/.test(line));
    if (blank && open === undefined && !continuesList && line.trim() !== "" && block.some(isWritten)) {
      blocks.push(block.join("\n"));
      block = [];
    }
    block.push(line);
    blank = line.trim() === "" && open === undefined;
    if (mark && open === undefined) open = mark;
    else if (mark && open !== undefined && mark.startsWith(open) && line.trim() === mark) open = undefined;
  }
  if (block.some(isWritten)) blocks.push(block.join("\n"));
  return blocks;
}

function isWritten(line: string): boolean {
  return line.trim() !== "";
}
