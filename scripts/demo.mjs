// `npm run demo`: everything from a fresh clone to Quay Desk answering.
import { addressesOf, openedAt } from "./addresses.mjs";
import {
  build,
  install,
  needPort,
  place,
  run,
  sampleKeys,
  script,
  server,
  standInServer,
  together,
  whenReady,
} from "./prepare.mjs";

const { host, port } = place();
const standIns = Number(process.env.FINCH_STANDINS ?? 4610);
await needPort(port, host, "FINCH_PORT");
for (let at = 0; at < 6; at++) await needPort(standIns + at, "127.0.0.1", "FINCH_STANDINS");
install();
await build();
run(...script("scripts/seed.ts"));

void whenReady(addressesOf(host, port)[0], () =>
  console.log(`${openedAt("Quay Desk", { host, port })}Ctrl+C ends it.\n`),
);
await together([
  standInServer(),
  script("scripts/demo-site.ts"),
  [...server(), { NODE_ENV: "production", ...sampleKeys() }],
]);
