/** The options of curl, by its manual (https://curl.se/docs/manpage.html): which take a value, and how short ones are written out. */

const long =
  "abstract-unix-socket alt-svc aws-sigv4 cacert capath cert cert-type ciphers config connect-timeout connect-to continue-at cookie cookie-jar create-file-mode crlfile curves data data-ascii data-binary data-raw data-urlencode delegation dns-interface dns-ipv4-addr dns-ipv6-addr dns-servers doh-url dump-header ech egd-file engine etag-compare etag-save expect100-timeout form form-string ftp-account ftp-alternative-to-user ftp-method ftp-port ftp-ssl-ccc-mode happy-eyeballs-timeout-ms haproxy-clientip header hostpubmd5 hostpubsha256 hsts interface ip-tos ipfs-gateway json keepalive-cnt keepalive-time key key-type krb libcurl limit-rate local-port login-options mail-auth mail-from mail-rcpt max-filesize max-redirs max-time netrc-file noproxy oauth2-bearer output output-dir parallel-max pass pinnedpubkey preproxy proto proto-default proto-redir proxy proxy-cacert proxy-capath proxy-cert proxy-cert-type proxy-ciphers proxy-crlfile proxy-header proxy-key proxy-key-type proxy-pass proxy-pinnedpubkey proxy-service-name proxy-tls13-ciphers proxy-tlsauthtype proxy-tlspassword proxy-tlsuser proxy-user proxy1.0 pubkey quote random-file range rate referer request request-target resolve retry retry-delay retry-max-time sasl-authzid service-name socks4 socks4a socks5 socks5-gssapi-service socks5-hostname speed-limit speed-time stderr telnet-option tftp-blksize time-cond tls-max tls13-ciphers tlsauthtype tlspassword tlsuser trace trace-ascii trace-config unix-socket upload-file url url-query user user-agent variable vlan-priority write-out";

const valued = new Set(long.split(" "));

/** Short options with a value, by the long ones that they stand for. */
const shortValued: Record<string, string> = {
  A: "user-agent",
  b: "cookie",
  c: "cookie-jar",
  C: "continue-at",
  d: "data",
  D: "dump-header",
  e: "referer",
  E: "cert",
  F: "form",
  H: "header",
  K: "config",
  m: "max-time",
  o: "output",
  P: "ftp-port",
  Q: "quote",
  r: "range",
  t: "telnet-option",
  T: "upload-file",
  u: "user",
  U: "proxy-user",
  w: "write-out",
  x: "proxy",
  X: "request",
  y: "speed-time",
  Y: "speed-limit",
  z: "time-cond",
};
/** Short options without a value that say something about the request. */
const shortFlags: Record<string, string> = { G: "get", I: "head", ":": "next", n: "netrc" };

/** One option with its value, or a word that is none: an address. */
export interface Option {
  /** The long name; empty for an address. */
  name: string;
  value?: string;
}

/** Thrown for an option whose value is not there. */
export class NoValue extends Error {}

/**
 * The options of a command, in order; short ones may be combined, with the value of the last joined to it, as in
 * `-sSXPOST`, and a long one may have its value behind a sign, as in `--url=x`.
 * @throws {NoValue}
 */
export function optionsIn(words: readonly string[]): Option[] {
  const options: Option[] = [];
  let areOver = false;
  for (let at = 0; at < words.length; at++) {
    const word = words[at] as string;
    const next = (option: string): string => {
      at += 1;
      const value = words[at];
      if (value === undefined) throw new NoValue(`The command ends after ${option}, which needs a value.`);
      return value;
    };
    if (areOver || word === "-" || !word.startsWith("-")) options.push({ name: "", value: word });
    else if (word === "--") areOver = true;
    else if (word.startsWith("--")) options.push(longOption(word, next));
    else options.push(...shortOptions(word, next));
  }
  return options;
}

function longOption(word: string, next: (option: string) => string): Option {
  const [, name = "", joined] = /^--([^=]+)(?:=([\s\S]*))?$/.exec(word) ?? [];
  const plain = name.replace(/^expand-/, "");
  if (!valued.has(plain)) return { name };
  return { name: plain, value: joined ?? next(word) };
}

function shortOptions(word: string, next: (option: string) => string): Option[] {
  const options: Option[] = [];
  for (let at = 1; at < word.length; at++) {
    const letter = word[at] as string;
    const name = shortValued[letter];
    if (name !== undefined) {
      const joined = word.slice(at + 1).replace(/^=(?=.)/, letter === "X" ? "" : "=");
      return [...options, { name, value: joined === "" ? next(`-${letter}`) : joined }];
    }
    options.push({ name: shortFlags[letter] ?? letter });
  }
  return options;
}
