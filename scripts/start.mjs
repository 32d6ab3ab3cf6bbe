// `npm start`: the bench and its server alone, on the data folder as it is.
import { addressesOf, openedAt } from "./addresses.mjs";
import { build, install, needPort, place, server, together, whenReady } from "./prepare.mjs";

const { host, port } = place();
await needPort(port, host, "FINCH_PORT");
install();
await build();
void whenReady(addressesOf(host, port)[0], () => console.log(openedAt("Unruly Finch", { host, port })));
await together([[...server(), { NODE_ENV: "production" }]]);
