#!/usr/bin/env node
// `finch`: the terminal's way in. After `npm link` it is there from any folder.
import { fileURLToPath } from "node:url";
import { register } from "tsx/esm/api";

register({ tsconfig: fileURLToPath(new URL("../tsconfig.json", import.meta.url)) });
await import("../src/cli/finch.ts");
