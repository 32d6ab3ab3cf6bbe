import type { Fault } from "./fault";

/** Every character of several bytes comes in two parts. */
export const cutInCharacter: Fault = {
  says: "cuts inside of characters",
  needs: {},
  cut(bytes) {
    const parts: Buffer[] = [];
    let from = 0;
    for (let at = 1; at < bytes.length; at++)
      if (((bytes[at] ?? 0) & 0xc0) === 0x80) {
        parts.push(bytes.subarray(from, at));
        from = at;
      }
    // without such a character it is cut in the middle
    if (from === 0) from = Math.floor(bytes.length / 2);
    return parts.length > 0 ? [...parts, bytes.subarray(from)] : [bytes.subarray(0, from), bytes.subarray(from)];
  },
};
