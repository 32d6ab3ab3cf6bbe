// `npm run dev`: the application rebuilt at each change, with the stand-ins beside it.
import { buildModule } from "./module.mjs";
import { install, needPort, place, sampleKeys, together, tool } from "./prepare.mjs";

const { host, port } = place();
await needPort(port, host, "FINCH_PORT");
install();
await buildModule();
await together([
  [...tool("tsx/dist/cli.mjs", "watch", "src/standins/main.ts")],
  [...tool("next/dist/bin/next", "dev", "-p", String(port), "-H", host), sampleKeys()],
]);
