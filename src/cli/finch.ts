import { Command, InvalidArgumentError } from "commander";
import { version } from "../../package.json";
import { apps } from "./apps";
import { forget } from "./forget";
import { Kept } from "./kept";
import { paper } from "./paper";
import { type TalkWishes, talk } from "./talk";

/** `finch`: talk with an app from a terminal, over HTTP, as any other front end does. */

const usual = "http://127.0.0.1:4600";
const address = ["--at <address>", "where Unruly Finch is", process.env.FINCH_ADDRESS ?? usual] as const;

const program = new Command("finch")
  .description("Talk with an app from the terminal.")
  .version(version)
  .showHelpAfterError("(finch --help shows how)")
  // wrong usage ends with 2, a reply that failed with 1
  .exitOverride((error) => process.exit(error.exitCode === 0 ? 0 : 2));

/** The values that were said so far, with one more. */
function kept(said: string, before: Record<string, string>): Record<string, string> {
  const [, name, value = ""] = /^([^=]+)=([\s\S]*)$/.exec(said) ?? [];
  if (name === undefined) throw new InvalidArgumentError("Write it as name=value.");
  return { ...before, [name]: value };
}

program
  .command("talk")
  .description("talk with an app, or ask it one thing")
  .argument("<app>", "the app's address, such as quay-desk")
  .argument("[question...]", "one question; without it, and on a terminal, a conversation")
  .option(...address)
  .option("--as <visitor>", "who you are to the app; kept for the next time")
  .option("--token <token>", "a token that was made in Serve; kept once it has worked (or FINCH_TOKEN)")
  .option("--model <model>", "a model that the app lets callers choose")
  .option(
    "--set <name=value>",
    "a value for what the app's prompt leaves to its callers; may be said several times",
    kept,
    {},
  )
  .option("--new", "begin a new conversation instead of going on")
  .option("--json", "give each answer as a line of JSON")
  .addHelpText(
    "after",
    `
In a conversation a line that begins with ":" is for the terminal:
  :new            begins a new conversation
  :model [name]   chooses a model that the app allows, or goes back to its own
  :reach          says what your next message would carry
  :help           lists these
"exit" alone, or Ctrl+D, leaves. Ctrl+C stops the reply, and leaves where there is none.

Examples:
  finch talk quay-desk
  finch talk quay-desk When does the next boat leave?
  echo "Do dogs pay?" | finch talk quay-desk
  finch talk logbook --set skipper=Nia "Wind from the east, two seals at the buoy."
  finch talk quay-desk --json --new "Do dogs pay?" | jq -r .text

Ends with 0 after an answer, 1 where the reply failed, 2 where the call was wrong, 130 where it was stopped.`,
  )
  .action(async (app: string, question: string[], wishes: TalkWishes) => {
    process.exitCode = await talk(app, question.join(" "), wishes, new Kept(), paper());
  });

program
  .command("forget")
  .description("drop the token that is kept for an app, and where the conversation with it stands")
  .argument("<app>", "the app's address, such as quay-desk")
  .option(...address)
  .action((app: string, wishes: { at: string }) => {
    process.exitCode = forget(app, wishes, new Kept(), paper());
  });

program
  .command("apps")
  .description("list the apps, where this machine is the one that Unruly Finch runs on")
  .option(...address)
  .option("--json", "give each app as a line of JSON")
  .action(async (wishes: { at: string; json?: boolean }) => {
    process.exitCode = await apps(wishes, paper());
  });

// whoever read has gone, as `head` does: what a signal for it would end with
process.stdout.on("error", (error: NodeJS.ErrnoException) => process.exit(error.code === "EPIPE" ? 128 + 13 : 1));

program.parseAsync().catch((error: Error) => {
  console.error(error.message);
  process.exitCode = 1;
});
