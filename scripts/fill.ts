/**
 * `npm run fill -- [messages] [conversations]`: makes an app with as many stored messages as one likes, 100,000 in 2,000
 * conversations unless said otherwise, in the data folder that FINCH_DATA names; to see how the history is with them.
 */
import { openFolder } from "@/server/boot";
import { fill } from "./filling";

const [messages = 100_000, conversations = 2_000] = process.argv.slice(2).map(Number);
if (!(messages >= conversations && conversations >= 1)) {
  console.error("Say how many messages, and in how many conversations: npm run fill -- 100000 2000");
  process.exit(1);
}
const home = openFolder(process.env.FINCH_DATA ?? "data");
try {
  const content = {
    prompt: "You are the desk of a ferry line.",
    variables: {},
    provider: home.providers.all()[0]?.slug ?? "none",
    model: home.providers.models(home.providers.all()[0]?.id ?? "")[0]?.name ?? "none",
    settings: {},
    memory: { kind: "everything" } as const,
  };
  const app = home.apps.make("Filled", content, Date.now());
  const began = performance.now();
  fill(home, app.id, conversations, Math.round(messages / conversations / 2) * 2);
  const seconds = Math.round((performance.now() - began) / 1000);
  console.log(`${messages} messages in ${conversations} conversations are in the app ${app.name}, after ${seconds} s.`);
} finally {
  home.close();
}
