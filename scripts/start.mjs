// `npm start`: the bench and its server alone, on the data folder as it is.
import { build, install, needPort, place, server, together, whenReady } from "./prepare.mjs";

const { host, port } = place();
await needPort(port, host, "FINCH_PORT");
install();
await build();
const address = `http://${host.includes(":") ? `[${host}]` : host}:${port}`;
void whenReady(address, () => console.log(`\nUnruly Finch is open at ${address}\n`));
await together([[...server(), { NODE_ENV: "production" }]]);
