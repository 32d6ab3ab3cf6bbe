/** How deep pages below an address may be wanted, and how many are taken at most. */
export const deepestBelow = 5;
export const mostBelow = 100;

/** Characters of an address. */
export const longestAddress = 2_000;

/** What a page leads to: as it stands there, and what it says that this is relative to. */
export interface PageLinks {
  hrefs: readonly string[];
  base: string | undefined;
}

/** Files that are no documents, by what their names end with: they are not even asked for. */
const others =
  /\.(?:png|jpe?g|gif|webp|avif|svg|ico|css|js|mjs|json|xml|woff2?|mp[34]|webm|ogg|wav|zip|gz|tar|exe|dmg)$/i;

/**
 * The addresses below a start to which a page leads, each once: of the same origin, and in the folder of the start or
 * in one of its folders. Where in a page they lead is left out (RFC 3986, 3.5).
 * @param page the page's own address
 */
export function linksBelow({ hrefs, base }: PageLinks, page: string, start: string): string[] {
  const from = addressOf(base ?? "", page) ?? new URL(page);
  const found = hrefs.flatMap((href) => {
    const address = addressOf(href, from);
    return address && isBelow(address, start) && !others.test(address.pathname) ? [address.href] : [];
  });
  return [...new Set(found)];
}

/** Whether an address is in the folder of a start, or below it. */
export function isBelow(address: URL | string, start: string): boolean {
  const [{ origin, pathname }, top] = [new URL(address), new URL(".", start)];
  return origin === top.origin && pathname.startsWith(top.pathname);
}

/** An address without the place in its page; undefined where it is none that a page can be had from. */
function addressOf(href: string, from: URL | string): URL | undefined {
  if (!URL.canParse(href, from)) return undefined;
  const address = new URL(href, from);
  address.hash = "";
  const isPage = /^https?:$/.test(address.protocol) && address.username === "" && address.href.length <= longestAddress;
  return isPage ? address : undefined;
}
