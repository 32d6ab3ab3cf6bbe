import { readFileSync } from "node:fs";
import { expect, it, vi } from "vitest";
import type { Content } from "@/core/revision/content";
import { meanReciprocalRank, shareAmong } from "@/core/sources/retrieval";
import chatCompletions from "@/core/wire/profiles/chat-completions.json";
import { testFolder } from "@/server/test/folder";
import { plainWiring } from "@/server/test/provider";
import { VectorProvider } from "../api/vector-provider";
import { askedOf, ways } from "./retrieval";
import { addDocuments, preparedDocuments } from "./seed-documents";

it("the README says how many of the questions of Harbour Desk find their passage, by words, by meaning, and by both", async () => {
  const { home, remove } = testFolder();
  const makers = await VectorProvider.start();
  try {
    const wiring = { ...plainWiring, address: makers.address, profileText: JSON.stringify(chatCompletions) };
    const provider = "looms";
    const id = home.providers.add({ ...wiring, credential: { kind: "none" } }, 1, provider);
    const price = { input: 0, output: 0, currency: "EUR" };
    home.providers.putModels(id, [{ name: "weft", window: 2_000, price, can: ["vectors"] }]);
    const documents = preparedDocuments(home, "demo/harbour-desk");
    const content: Content = {
      prompt: "",
      variables: {},
      provider,
      model: "m",
      settings: {},
      memory: { kind: "nothing" },
      sources: {
        documents: documents.map(({ id, hash }) => ({ source: id, version: hash })),
        meaning: { provider, model: "weft" },
      },
    };
    const app = home.apps.make("Harbour Desk", content, 1);
    addDocuments(home, app.id, documents);
    const [job] = home.jobs.latest();
    home.runner.start(job?.id ?? "");
    // read and cut, and their vectors made after that
    await vi.waitFor(
      () => expect(home.jobs.latest().map(({ state, work }) => `${work.kind} ${state}`)).toContain("vectors done"),
      { timeout: 60_000, interval: 100 },
    );
    const said: string[] = [];
    const misses: string[] = [];
    for (const way of Object.keys(ways) as (keyof typeof ways)[]) {
      const asked = await askedOf(home, app.id, content, way);
      const places = asked.map(({ place }) => place);
      const shares = [1, 3, 5].map((first) => `${shareAmong(places, first)}%`);
      said.push(`| ${way} | ${shares.join(" | ")} | ${meanReciprocalRank(places).toFixed(2)} |`);
      misses.push(
        `${way}: ${asked.flatMap(({ question, place }) => (place !== null && place <= 5 ? [] : [question])).join(" · ")}`,
      );
    }
    const readme = readFileSync("README.md", "utf8").replace(/ +/g, " ");
    for (const line of said) expect(readme.includes(line), `${said.join("\n")}\n${misses.join("\n")}`).toBe(true);
  } finally {
    makers.stop();
    remove();
  }
}, 120_000);
