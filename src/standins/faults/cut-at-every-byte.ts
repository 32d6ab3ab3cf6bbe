import type { Fault } from "./fault";

/** Each byte comes by itself. */
export const cutAtEveryByte: Fault = {
  says: "cuts at every byte",
  needs: {},
  cut: (bytes) => Array.from(bytes, (byte) => Buffer.of(byte)),
};
