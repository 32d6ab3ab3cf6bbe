import type { ToolPiece } from "../conversation/pieces";
import type { ToolFragment } from "../reply/events";
import { isDeeperThan, parseJson } from "../wire/json";

/** Calls that a model may ask for in one round, and characters that the arguments of one may have. */
const mostCalls = 32;
const longestArguments = 256 * 1024;
const longestId = 200;

/** A call as it is asked for. */
export type AskedCall = Pick<ToolPiece, "call" | "name" | "arguments">;

/** Puts the fragments of calls together, as they come. */
export class CallFragments {
  private readonly blocks = new Map<string, { id: string; name: string; arguments: string }>();
  /** Whether more was asked for than is looked at. */
  private isTooMuch = false;

  /** Whether a call was asked for. */
  get hasAny(): boolean {
    return this.blocks.size > 0;
  }

  add({ block, id, name, arguments: fragment = "" }: ToolFragment): void {
    const call = this.blocks.get(block) ?? { id: "", name: "", arguments: "" };
    if (this.blocks.size >= mostCalls && !this.blocks.has(block)) this.isTooMuch = true;
    else if (call.arguments.length + fragment.length > longestArguments) this.isTooMuch = true;
    else {
      // an API says them once, or with each fragment
      if (id !== undefined && id !== "") call.id = id.slice(0, longestId);
      if (name !== undefined && name !== "") call.name = name.slice(0, longestId);
      call.arguments += fragment;
      this.blocks.set(block, call);
    }
  }

  /**
   * The calls that were asked for, in the order in which they began; undefined where they are more, or larger, than is
   * looked at. @param round that they belong to: a call of which the API gave no id of its own gets one
   */
  calls(round: number): AskedCall[] | undefined {
    if (this.isTooMuch) return undefined;
    const ids = new Set<string>();
    return [...this.blocks.values()].map(({ id, name, arguments: text }, at) => {
      const call = id === "" || ids.has(id) ? `call_${round}_${at + 1}` : id;
      ids.add(call);
      return { call, name, arguments: argumentsIn(text) };
    });
  }
}

/** The arguments of a call: none are an empty object, and what is no JSON stays the text that it is. */
export function argumentsIn(text: string): ToolPiece["arguments"] {
  if (text.trim() === "") return {};
  const value = parseJson(text) as ToolPiece["arguments"] | undefined;
  return value === undefined || isDeeperThan(value) ? text : value;
}
