/**
 * A template is JSON with placeholders. A string that is one placeholder (`"<temperature>"`) takes
 * the value with its type; one inside a longer string (`"Bearer <key>"`) is written into it. A
 * member or element whose placeholder has no value is left out, and so is an object of which
 * nothing is left. `<<` stands for a plain `<`.
 *
 * Four forms are written as objects: `{"<each>": "messages", "as": …}` repeats `as` for each entry
 * of a list, with the entry's own values in reach; `{"<of>": "newest", "as": …}` fills `as` with the
 * values of one thing; `{"<if>": "stream", "as": …, "else": …}`
 * chooses by whether the value is there and neither false nor empty, or with `"is": "user"` by
 * whether it is that; `{"<join>": […], "with": "\n"}` makes one text of texts and of lists of them.
 */

/**
 * A value that says which placeholder it fills, for showing a request with its parts marked. In a
 * longer string it is written between marks from the private use area.
 */
export class Marked {
  constructor(
    readonly name: string,
    readonly value: string | number | boolean,
  ) {}

  toString(): string {
    return `\uE000${this.name}\uE001${this.value}\uE002`;
  }
}

/** Values by the name of their placeholder; lists hold the values of each entry. */
export interface TemplateValues {
  [placeholder: string]: unknown;
}

/** A compiled template: values in, JSON out; undefined when nothing is left of it. */
export type Template = (values: TemplateValues) => unknown;

/** Thrown for a template that is not one; `place` is the path inside it, such as `messages.as`. */
export class TemplateError extends Error {
  constructor(
    readonly place: string,
    reason: string,
  ) {
    super(reason);
  }
}

const placeholder = /<([a-zA-Z]+|(?:extra|own|value):[\w.-]+)>/y;

/**
 * Compiles a template; only the placeholders named in `known` may stand in it.
 * @throws {TemplateError} with the place and the reason.
 */
export function compileTemplate(source: unknown, known: readonly string[], place = ""): Template {
  if (typeof source === "string") return compileString(source, known, place);
  if (Array.isArray(source)) {
    const parts = source.map((part, at) => compileTemplate(part, known, `${place}[${at}]`));
    return (values) => parts.map((part) => part(values)).filter((part) => part !== undefined);
  }
  if (typeof source !== "object" || source === null) return () => source;
  if ("<each>" in source) return compileEach(source as Record<string, unknown>, known, place);
  if ("<of>" in source) return compileOf(source as Record<string, unknown>, known, place);
  if ("<if>" in source) return compileIf(source as Record<string, unknown>, known, place);
  if ("<join>" in source) return compileJoin(source as Record<string, unknown>, known, place);
  return compileMembers(source as Record<string, unknown>, known, place);
}

function compileMembers(source: Record<string, unknown>, known: readonly string[], place: string): Template {
  const members = Object.entries(source).map(
    ([name, part]) => [name, compileTemplate(part, known, place ? `${place}.${name}` : name)] as const,
  );
  return (values) => {
    const filled: Record<string, unknown> = {};
    let isEmpty = members.length > 0;
    for (const [name, part] of members) {
      const value = part(values);
      if (value === undefined) continue;
      filled[name] = value;
      isEmpty = false;
    }
    return isEmpty ? undefined : filled;
  };
}

function compileEach(source: Record<string, unknown>, known: readonly string[], place: string): Template {
  const list = nameOf(source["<each>"], known, `${place}.<each>`);
  refuseOthers(source, ["<each>", "as"], place);
  const as = compileTemplate(source.as, known, `${place}.as`);
  return (values) => {
    const entries = values[list];
    if (!Array.isArray(entries)) return undefined;
    return entries.map((entry: TemplateValues) => as(within(values, entry)));
  };
}

function compileOf(source: Record<string, unknown>, known: readonly string[], place: string): Template {
  const name = nameOf(source["<of>"], known, `${place}.<of>`);
  refuseOthers(source, ["<of>", "as"], place);
  const as = compileTemplate(source.as, known, `${place}.as`);
  return (values) => {
    const one = values[name];
    return typeof one === "object" && one !== null ? as(within(values, one as TemplateValues)) : undefined;
  };
}

/** The values of one entry: what it does not have it inherits; copying that for each would take most of the time. */
function within(values: TemplateValues, entry: TemplateValues): TemplateValues {
  return Object.assign(Object.create(values), entry);
}

function compileIf(source: Record<string, unknown>, known: readonly string[], place: string): Template {
  const name = nameOf(source["<if>"], known, `${place}.<if>`);
  refuseOthers(source, ["<if>", "is", "as", "else"], place);
  const yes = compileTemplate(source.as, known, `${place}.as`);
  const no = compileTemplate(source.else, known, `${place}.else`);
  return (values) => {
    const value = values[name];
    return holds(value, source.is) ? yes(values) : no(values);
  };
}

function holds(given: unknown, is: unknown): boolean {
  const value = given instanceof Marked ? given.value : given;
  if (is !== undefined) return value === is;
  return Array.isArray(value) ? value.length > 0 : Boolean(value);
}

function compileJoin(source: Record<string, unknown>, known: readonly string[], place: string): Template {
  refuseOthers(source, ["<join>", "with"], place);
  if (!Array.isArray(source["<join>"])) throw new TemplateError(`${place}.<join>`, "expected a list of what is joined");
  const parts = source["<join>"].map((part, at) => compileTemplate(part, known, `${place}.<join>[${at}]`));
  const between = typeof source.with === "string" ? source.with : "";
  return (values) =>
    parts
      .flatMap((part) => part(values) ?? [])
      .map((part) => (typeof part === "string" || part instanceof Marked ? String(part) : JSON.stringify(part)))
      .join(between);
}

function compileString(source: string, known: readonly string[], place: string): Template {
  const parts: (string | { name: string })[] = [];
  let plain = "";
  for (let at = 0; at < source.length; ) {
    placeholder.lastIndex = at;
    const match = source[at] === "<" ? placeholder.exec(source) : null;
    if (match) {
      parts.push(plain, { name: nameOf(match[1], known, place) });
      plain = "";
      at += match[0].length;
    } else if (source.startsWith("<<", at)) {
      plain += "<";
      at += 2;
    } else {
      plain += source[at];
      at += 1;
    }
  }
  const only = parts.length === 2 && parts[0] === "" && plain === "" ? parts[1] : undefined;
  if (typeof only === "object") return (values) => values[only.name] ?? undefined;
  if (parts.length === 0) return () => plain;
  return (values) => {
    let written = "";
    for (const part of parts) {
      const value = typeof part === "string" ? part : values[part.name];
      if (value === undefined || value === null) return undefined;
      written += typeof value === "object" && !(value instanceof Marked) ? JSON.stringify(value) : String(value);
    }
    return written + plain;
  };
}

function nameOf(name: unknown, known: readonly string[], place: string): string {
  if (typeof name === "string" && (known.includes(name) || /^(?:extra|own|value):/.test(name))) return name;
  throw new TemplateError(
    place,
    `<${String(name)}> is not a placeholder; there are ${known.map((each) => `<${each}>`).join(", ")}`,
  );
}

function refuseOthers(source: Record<string, unknown>, allowed: string[], place: string): void {
  for (const name of Object.keys(source))
    if (!allowed.includes(name)) throw new TemplateError(place, `"${name}" does not belong beside "${allowed[0]}"`);
}
