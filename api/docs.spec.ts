import { execFile } from "node:child_process";
import { existsSync, readFileSync } from "node:fs";
import { expect, noLimits, test, type World } from "../e2e/fixtures";
import { sampleKeys } from "../e2e/world";
import { leading, promises } from "./promises";

/** The blocks of code of a page of the documentation, each with its language. */
function blocksOf(file: string): { language: string; text: string }[] {
  const all = readFileSync(file, "utf8").matchAll(/^```(\w*)\n([\s\S]*?)^```$/gm);
  return [...all].map(([, language = "", text = ""]) => ({ language, text }));
}

/** Runs a command in a shell. @returns what it said */
function shell(
  command: string,
  env: Record<string, string> = {},
  input = "",
): Promise<{ code: number | null; out: string }> {
  return new Promise((resolve) => {
    const child = execFile("sh", ["-c", command], { env: { ...process.env, ...env } }, (_error, out, err) =>
      resolve({ code: child.exitCode, out: out + err }),
    );
    child.stdin?.end(input);
  });
}

/** A text of the docs with the addresses of a world in the place of the usual ones. */
const at = (world: World, text: string, slug = "quay-desk") =>
  text
    .replaceAll("http://127.0.0.1:4600", world.address)
    .replaceAll("http://127.0.0.1:4610", world.standIn)
    .replaceAll("quay-desk", slug);

test.describe("the documentation", () => {
  test("has commands that run as they stand", async ({ world }) => {
    test.setTimeout(120_000);
    const prompt = readFileSync("demo/quay-desk/prompt.txt", "utf8");
    const quayDesk = await world.makeApp("Quay Desk", { prompt, model: "reed-deep" }, { limits: noLimits });
    const script = readFileSync("demo/quay-desk/quay-desk.checks", "utf8");
    await world.bench("PUT", `apps/${quayDesk}/checks/quay-desk`, { text: script, was: null });
    const logbook = await world.makeApp("Logbook", { prompt: "You write for {{skipper}}." }, { limits: noLimits });
    // candidates are compared with a model of its own
    await world.wire("Saltpan");
    const shown = blocksOf("README.md").filter(({ language }) => language === "");
    const commands = [...shown, ...blocksOf("docs/checks.md").filter(({ text }) => text.startsWith("npm "))].flatMap(
      ({ text }) => text.replaceAll("\\\n", " ").trim().split("\n"),
    );
    // what starts and tests all of this is run by whoever runs this test
    const own = commands.filter((command) => !/^npm (?:run demo|test)\b/.test(command));
    expect(own.length).toBeGreaterThan(4);
    for (const command of own) {
      const text = at(world, command, quayDesk).replaceAll("talk logbook", `talk ${logbook}`);
      // without a question it is a conversation, on a terminal
      const asTyped = / talk \S+$/.test(text) && !text.includes("|") ? `script -qec '${text}' /dev/null` : text;
      const env = {
        ...(sampleKeys as Record<string, string>),
        FINCH_ADDRESS: world.address,
        XDG_CONFIG_HOME: world.folder,
      };
      const { code, out } = await shell(asTyped, env, "exit\n");
      expect([command, code, out]).toEqual([command, 0, expect.not.stringMatching(/"status":[45]/)]);
    }
    await world.fault(null);
  });

  test("signs an identity by lines that run as they stand", async ({ world }) => {
    const slug = await world.makeApp("Documented", {}, { callers: "token", limits: noLimits });
    const { text } = await world.bench<{ text: string }>("POST", `apps/${slug}/tokens`, { kind: "site", name: "Site" });
    const lines = blocksOf("docs/endpoints.md").find(({ text }) => text.includes("createHmac"));
    const { out } = await new Promise<{ out: string }>((resolve) => {
      const child = execFile(
        process.execPath,
        ["--input-type=module", "-"],
        { env: { ...process.env, FINCH_SITE_SECRET: text } },
        (_error, out, err) => resolve({ out: out + err }),
      );
      child.stdin?.end(lines?.text);
    });
    const response = await fetch(`${world.address}/api/apps/${slug}/replies`, {
      method: "POST",
      headers: { authorization: `Bearer ${out.trim()}` },
      body: '{"message":"Hello"}',
    });
    expect([out, response.status]).toEqual([out, 200]);
  });

  test("of the endpoints promises nothing that no test holds", () => {
    const said = sentencesOf("docs/endpoints.md");
    expect(said.length).toBeGreaterThan(90);
    const held = (sentence: string) => promises.some(([says]) => sentence.includes(says));
    const open = said.filter((sentence) => !held(sentence) && !leading.some((each) => sentence.includes(each)));
    expect(open).toEqual([]);
    const text = said.join("\n");
    expect(promises.filter(([says]) => !text.includes(says)).map(([says]) => says)).toEqual([]);
    const missing = promises.flatMap(([says, tests]) =>
      Object.entries(tests).flatMap(([file, title]) => {
        const spec = ["api", "e2e"].map((folder) => `${folder}/${file}.spec.ts`).find(existsSync);
        const path = file.startsWith("../") ? `${file.slice(3)}.ts` : (spec ?? `${file}.spec.ts`);
        return readFileSync(path, "utf8").includes(title) ? [] : [`${says}: there is no test "${title}" in ${path}`];
      }),
    );
    expect(missing).toEqual([]);
  });
});

/** What a page of the documentation says: sentences of its paragraphs and lists, and rows of its tables, without its code. */
function sentencesOf(file: string): string[] {
  const blocks = readFileSync(file, "utf8")
    .replace(/^```[\s\S]*?^```$/gm, "")
    .replace(/^#.*$/gm, "\n")
    .split(/\n\s*\n|\n(?=[-|])|\n(?=\d\. )/)
    .map((block) => block.replace(/\s+/g, " ").trim());
  return blocks.flatMap((block) => {
    if (block === "" || block.startsWith("#") || /^\|[-| ]+\|$/.test(block)) return [];
    if (block.startsWith("|"))
      return /^\| (?:call|header|status|the page says|the site says) \|/.test(block) ? [] : [block];
    return block
      .replace(/^(?:- |\d\. )/, "")
      .split(/(?<=\.)\s+(?=[A-Z`*])/)
      .filter((sentence) => sentence !== "");
  });
}
