import { instant } from "./pace";
import { reedbed } from "./shapes/reedbed";
import { serve } from "./standin";

/**
 * Starts the stand-ins: `tsx src/standins/main.ts [--instant]`. Reedbed listens on
 * FINCH_STANDINS, 4610 unless set.
 */
const first = Number(process.env.FINCH_STANDINS ?? 4610);
const server = serve(reedbed(), process.argv.includes("--instant") ? instant : undefined);

server.on("error", (error: NodeJS.ErrnoException) => {
  const why =
    error.code === "EADDRINUSE"
      ? "the port is taken: stop what listens there, or set FINCH_STANDINS to another"
      : error.message;
  console.error(`Reedbed can't listen on ${first}: ${why}.`);
  process.exit(1);
});
server.listen(first, "127.0.0.1", () => console.log(`Reedbed answers on http://127.0.0.1:${first}`));
for (const signal of ["SIGINT", "SIGTERM"] as const) process.on(signal, () => process.exit(0));
