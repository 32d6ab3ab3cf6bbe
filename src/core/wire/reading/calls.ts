import type { ReadEvent, ToolFragment } from "../../reply/events";
import { written } from "../json";
import type { Path } from "../path";

/** Where a call of a tool stands, its paths compiled. */
export interface CompiledTool {
  each?: Path;
  block?: Path;
  id?: Path;
  name?: Path;
  arguments?: Path;
  /** Whether the arguments hold all so far. */
  soFar: boolean;
}

/** The calls of tools in an answer: in fragments or whole, told apart by a number, by their ids or by their names. */
export class Calls {
  /** Calls that began in each take, and the id of the last, where nothing else tells them apart. */
  private readonly begun = new Map<number, { count: number; id: string | undefined }>();
  /** Calls that came under each number, and the id of the last. */
  private readonly numbered = new Map<string, { count: number; id: string | undefined }>();
  /** Arguments so far, which go out once the answer ends, by their block. */
  private readonly latest = new Map<string, { take: number; arguments: string }>();

  /** Reads what stands of one call at a place. @param block what numbers it; @returns whether anything stands there */
  read(tool: CompiledTool, take: number, block: string | undefined, at: unknown, events: ReadEvent[]): boolean {
    const call = { id: textAt(tool.id, at), name: textAt(tool.name, at), arguments: textAt(tool.arguments, at) };
    if (call.id === undefined && call.name === undefined && call.arguments === undefined) return false;
    const data: ToolFragment = { block: block === undefined ? this.callIn(take, call) : this.callAt(block, call) };
    if (call.id !== undefined) data.id = call.id;
    if (call.name !== undefined) data.name = call.name;
    if (call.arguments !== undefined) {
      if (tool.soFar) this.latest.set(data.block, { take, arguments: call.arguments });
      else data.arguments = call.arguments;
    }
    if (data.id !== undefined || data.name !== undefined || data.arguments !== undefined)
      events.push({ event: "tool", take, data });
    return true;
  }

  /** Says the arguments of which each event held all so far. */
  close(events: ReadEvent[]): void {
    for (const [block, { take, arguments: all }] of this.latest)
      events.push({ event: "tool", take, data: { block, arguments: all } });
    this.latest.clear();
  }

  /** The block of a call under its number: one that has another name and another id than the call before is another one. */
  private callAt(block: string, { id, name }: { id?: string; name?: string }): string {
    const before = this.numbered.get(block);
    const isOther = before?.id !== undefined && id !== undefined && id !== before.id && name !== undefined;
    const call = { count: (before?.count ?? 0) + (isOther ? 1 : 0), id: id ?? before?.id };
    this.numbered.set(block, call);
    return call.count === 0 ? block : `${block} call ${call.count}`;
  }

  /** The block of a call where nothing numbers calls: one that says its name is another one, unless its id is the same. */
  private callIn(take: number, { id, name }: { id?: string; name?: string }): string {
    const before = this.begun.get(take) ?? { count: 0, id: undefined };
    const isOther = before.count === 0 || (name !== undefined && (id === undefined || id !== before.id));
    const call = { count: before.count + (isOther ? 1 : 0), id: id ?? before.id };
    this.begun.set(take, call);
    return `${take}.call ${call.count}`;
  }
}

function textAt(path: Path | undefined, at: unknown): string | undefined {
  const value = path?.first(at);
  return value === undefined || value === null ? undefined : written(value);
}
