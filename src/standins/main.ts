import { instant } from "./pace";
import { bellhouse } from "./shapes/bellhouse";
import { lantern } from "./shapes/lantern";
import { reedbed } from "./shapes/reedbed";
import { saltpan } from "./shapes/saltpan";
import { tidegate } from "./shapes/tidegate";
import { serve } from "./standin";

/**
 * Starts the stand-ins: `tsx src/standins/main.ts [--instant] [--switched-on]`. Reedbed listens on FINCH_STANDINS,
 * 4610 unless set, and the others on the ports after it.
 */
const first = Number(process.env.FINCH_STANDINS ?? 4610);
const isHung = process.argv.includes("--switched-on");
const pace = process.argv.includes("--instant") ? instant : undefined;

for (const [at, standIn] of [reedbed(), saltpan(), tidegate(), lantern(), bellhouse({ isHung })].entries()) {
  const { name } = standIn.about;
  const port = first + at;
  const server = serve(standIn, pace);
  server.on("error", (error: NodeJS.ErrnoException) => {
    const why =
      error.code === "EADDRINUSE"
        ? "the port is taken: stop what listens there, or set FINCH_STANDINS to another"
        : error.message;
    console.error(`${name} can't listen on ${port}: ${why}.`);
    process.exit(1);
  });
  server.listen(port, "127.0.0.1", () => console.log(`${name} answers on http://127.0.0.1:${port}`));
}
for (const signal of ["SIGINT", "SIGTERM"] as const) process.on(signal, () => process.exit(0));
