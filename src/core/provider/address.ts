/** Where a value of the provider's own stands in its address: `https://<value:region>.ferry.test`. */
const valueMark = /<value:([\w.-]+)>/g;

/** Characters of a value that can stand in an address without leading elsewhere. */
const harmless = /^[\w.~:-]+$/;

/** Whether a text is an http or https address, values in it counted as there. */
export function isAddress(text: string): boolean {
  return /^https?:\/\//i.test(text) && URL.canParse(text.replace(valueMark, "x"));
}

/** The values that an address names. */
export function valuesIn(address: string): string[] {
  return Array.from(address.matchAll(valueMark), ([, name = ""]) => name);
}

/** An address with its values filled in; undefined where one is missing, or would lead elsewhere. */
export function filledAddress(address: string, values: Readonly<Record<string, string>>): string | undefined {
  if (valuesIn(address).some((name) => !harmless.test(values[name] ?? ""))) return undefined;
  return address.replace(valueMark, (_mark, name: string) => values[name] ?? "");
}

/** The host of an address, with its port, values as they are named. */
export function hostIn(address: string): string {
  return /^https?:\/\/([^/?#]*)/i.exec(address)?.[1] ?? address;
}
