import { createServer } from "node:net";

/** Where they are looked for: what runs beside other things of its kind looks in a stretch of its own. */
const stretch = 3_000;
const lowest = 20_000 + stretch * (Number(process.env.TEST_PARALLEL_INDEX ?? 0) % 4);
const highest = lowest + stretch;

/** The first of so many ports in a row that nothing listens on, so that what is started beside other things does not meet them. */
export async function freePorts(count: number): Promise<number> {
  for (let tries = 0; tries < 100; tries++) {
    const first = lowest + Math.floor(Math.random() * (highest - lowest - count));
    const free = await Promise.all(Array.from({ length: count }, (_, at) => isFree(first + at)));
    if (free.every(Boolean)) return first;
  }
  throw new Error(`No ${count} free ports in a row were found between ${lowest} and ${highest}.`);
}

function isFree(port: number): Promise<boolean> {
  return new Promise((resolve) => {
    const probe = createServer();
    probe.once("error", () => resolve(false));
    probe.listen(port, "127.0.0.1", () => probe.close(() => resolve(true)));
  });
}
