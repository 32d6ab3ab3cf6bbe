import { BlockList, isIP } from "node:net";

/** Addresses of this machine (RFC 6890). */
const own = listOf(["127.0.0.0", 8], ["0.0.0.0", 32], ["::1", 128], ["::", 128]);

/**
 * Addresses that lead into a network and not out of it, or nowhere (RFC 6890), with those that carry an address of
 * version 4 through which they would lead inward (RFC 6052, RFC 3056, RFC 4380).
 */
const inward = listOf(
  ["0.0.0.0", 8],
  ["10.0.0.0", 8],
  ["100.64.0.0", 10],
  ["127.0.0.0", 8],
  ["169.254.0.0", 16],
  ["172.16.0.0", 12],
  ["192.0.0.0", 24],
  ["192.0.2.0", 24],
  ["192.168.0.0", 16],
  ["198.18.0.0", 15],
  ["198.51.100.0", 24],
  ["203.0.113.0", 24],
  ["224.0.0.0", 4],
  ["240.0.0.0", 4],
  ["::", 128],
  ["::1", 128],
  ["64:ff9b::", 96],
  ["64:ff9b:1::", 48],
  ["100::", 64],
  ["2001::", 32],
  ["2001:db8::", 32],
  ["2002::", 16],
  ["fc00::", 7],
  ["fe80::", 10],
  ["fec0::", 10],
  ["ff00::", 8],
);

function listOf(...nets: [address: string, bits: number][]): BlockList {
  const list = new BlockList();
  for (const [address, bits] of nets) list.addSubnet(address, bits, isIP(address) === 6 ? "ipv6" : "ipv4");
  return list;
}

/** Where an IP address leads: out, to this machine, or inward otherwise. One of version 4 may be written in one of version 6. */
export function leadsOf(address: string): "out" | "this machine" | "inward" {
  // a zone names an interface of this machine
  const [plain = ""] = address.split("%");
  const family = isIP(plain) === 6 ? "ipv6" : "ipv4";
  if (isIP(plain) === 0) return "inward";
  if (own.check(plain, family)) return "this machine";
  return inward.check(plain, family) ? "inward" : "out";
}
