import { spawn } from "node:child_process";
import { once } from "node:events";
import { setTimeout as wait } from "node:timers/promises";
import { build } from "esbuild";
import { expect, it } from "vitest";
import { guardedSchemas } from "./schemas";

it("a pattern that runs away is cut off, and all else is as it is", () => {
  const runaway = { type: "string", pattern: "^(a+)+$" };
  const text = `${"a".repeat(60)}!`;
  expect(guardedSchemas.misfitOf(runaway, text)).toMatchObject({ why: 'must match pattern "^(a+)+$"' });
  expect(guardedSchemas.misfitOf(runaway, "aaaa")).toBeUndefined();
  expect(guardedSchemas.wrongIn({ type: "string", pattern: "(" })).toBeTruthy();
});

it("a pattern that matches does so on a machine that stands still again and again", async () => {
  const contents = `import { guardedSchemas } from "./src/server/ground/schemas";
    let misfits = 0;
    for (let checks = 0; checks < 1000; checks += 1)
      if (guardedSchemas.misfitOf({ type: "string", pattern: "^b[0-9]+$" }, "b40")) misfits += 1;
    console.log(misfits);`;
  const program = await build({
    stdin: { contents, resolveDir: process.cwd() },
    bundle: true,
    packages: "external",
    platform: "node",
    format: "esm",
    write: false,
  });
  const child = spawn(process.execPath, ["--input-type=module", "-e", program.outputFiles[0]?.text ?? ""]);
  const said = once(child.stdout, "data");
  let isOver = false;
  void once(child, "exit").then(() => {
    isOver = true;
  });
  while (!isOver) {
    child.kill("SIGSTOP");
    await wait(70);
    child.kill("SIGCONT");
    await wait(40);
  }
  expect(Number(String((await said)[0]))).toBe(0);
});
