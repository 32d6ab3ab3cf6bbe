import { createServer } from "node:http";
import type { AddressInfo } from "node:net";

/** A site of another origin, which has one page. */
export async function siteOf(html: string): Promise<{ origin: string; close: () => void }> {
  const site = createServer((_request, response) => {
    response.setHeader("content-type", "text/html");
    response.end(html);
  });
  await new Promise<void>((resolve) => site.listen(0, "127.0.0.1", resolve));
  return { origin: `http://localhost:${(site.address() as AddressInfo).port}`, close: () => site.close() };
}
