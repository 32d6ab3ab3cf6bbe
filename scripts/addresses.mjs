// Where a server can be opened that listens on a host: every address of this machine, where it listens on all of them.
import { networkInterfaces } from "node:os";

/**
 * Addresses that can be opened, as a browser takes them.
 * @param {string} host what is listened on
 * @param {number} port
 * @returns {string[]} this machine's own first
 */
export function addressesOf(host, port) {
  if (host !== "0.0.0.0" && host !== "::") return [`http://${host.includes(":") ? `[${host}]` : host}:${port}`];
  const others = Object.values(networkInterfaces())
    .flat()
    .filter(({ family, internal }) => family === "IPv4" && !internal)
    .map(({ address }) => address);
  return ["127.0.0.1", ...others].map((address) => `http://${address}:${port}`);
}

/**
 * What is printed once the server answers.
 * @param {string} name what is open
 * @param {{ host: string, port: number }} place
 */
export function openedAt(name, { host, port }) {
  const talkPort = process.env.FINCH_TALK_PORT;
  const bench = `${name} is open at ${addressesOf(host, port).join(" and ")}`;
  const pages =
    talkPort && `\nPages and endpoints of apps are open at ${addressesOf(host, Number(talkPort)).join(" and ")}`;
  return `\n${bench}${pages ?? ""}\n`;
}
