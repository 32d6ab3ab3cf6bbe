import { Command, InvalidArgumentError } from "commander";
import { version } from "../../package.json";
import { apps } from "./apps";
import { exportApp, importApp } from "./bundle";
import { type CheckWishes, check, record } from "./check";
import { type CompareWishes, compare } from "./compare";
import { forget } from "./forget";
import { tryHostile } from "./hostile";
import { Kept } from "./kept";
import { paper } from "./paper";
import { addSources, listSources } from "./sources";
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

/** The candidates that were named so far, with one more. */
function further(said: string, before: string[] = []): string[] {
  return [...before, said];
}

program
  .command("compare")
  .description("ask several candidates of an app the same, where this machine is the one that Unruly Finch runs on")
  .argument("<app>", "the app's address, such as quay-desk")
  .argument("<question...>", "what all of them are asked")
  .option(...address)
  .option(
    "--with <candidate>",
    "a candidate beside the live revision: draft, the number of a revision, or a model; may be said up to five times (draft where none is named)",
    further,
  )
  .option("--name <name>", "the name under which the comparison is saved")
  .option("--json", "give all of it as one line of JSON")
  .addHelpText(
    "after",
    `
Examples:
  finch compare quay-desk --with draft --with pan-clear "What does a bicycle cost?"
  finch compare quay-desk --with 3 --json "When does the last boat leave?" | jq '.facts.differing'

Ctrl+C stops all of them. Ends with 0 where all of them answered, 1 where one failed, 2 where the call was wrong, 130
where they were stopped.`,
  )
  .action(async (app: string, question: string[], wishes: CompareWishes) => {
    process.exitCode = await compare(app, question.join(" "), wishes, paper());
  });

/** A whole number from one on. */
function count(said: string): number {
  const number = Number(said);
  if (!Number.isInteger(number) || number < 0) throw new InvalidArgumentError("Write a whole number.");
  return number;
}

program
  .command("check")
  .description("run the checks of an app, where this machine is the one that Unruly Finch runs on")
  .argument("[app]", "the app's address, such as quay-desk")
  .option(...address)
  .option("--app <bundle>", "a bundle to run alone, in a scratch folder, instead of an app")
  .option("--serve", "start a server of its own for it, as is done in any case where a bundle is named")
  .option("--recordings <file>", "play what is recorded in a file to the bundle, and call nobody")
  .option("--played", "play what is recorded of the app, and call nobody")
  .option("--as-recorded", "have what is played take as long as it took")
  .option("--record", "record what providers answer, in the place of what is recorded of the app")
  .option(
    "--secret <name>",
    "a variable that headers of the bundle's tools may carry; may be said several times",
    further,
  )
  .option(
    "--with <candidate>",
    "a candidate beside the live revision: draft, the number of a revision, or a model; may be said up to five times (draft where none is named)",
    further,
  )
  .option("--on <candidate>", "a candidate, and none beside it; may be said up to six times", further)
  .option("--file <file>", "a script to run instead of those of the app; may be said several times", further)
  .option("--only <name>", "the name of a check; may be said several times", further)
  .option("--trials <n>", "how often each check is tried on each candidate", count, 1)
  .option("--seed <n>", "the seed before that of the first trial", count, 0)
  .option("--json", "give all of it as one line of JSON")
  .option("--junit <file>", "write a JUnit file")
  .option("--report <file>", "write a page of its own: one HTML file")
  .option("--line <file>", "write how it came out in a line, for a pull request")
  .addHelpText(
    "after",
    `
Examples:
  finch check quay-desk
  finch check quay-desk --on draft --trials 5 --only "keeps it short"
  finch check quay-desk --with reed-swift --json | jq '.checks[] | select(.outcome == "broke")'
  finch check quay-desk --on live --file quay-desk.checks --junit checks.xml
  finch check --app quay-desk.finch.json --on draft
  finch check --app quay-desk.finch.json --on live --recordings quay-desk.recordings.jsonl --serve

Ctrl+C stops it. Ends with 0 where all checks held, 1 where one broke in more trials than it may, 2 where they could not
be run or too much was silent, 130 where they were stopped.`,
  )
  .action(async (app: string | undefined, wishes: CheckWishes) => {
    process.exitCode = await check(app, wishes, paper());
  });

program
  .command("record")
  .description("run the checks of an app, and write what its providers answered to a file, to be played without them")
  .argument("<app>", "the app's address, such as quay-desk")
  .requiredOption("--to <file>", "the file to write: JSON Lines, without a secret, for version control")
  .option(...address)
  .option("--with <candidate>", "a candidate beside the live revision; may be said up to five times", further)
  .option("--on <candidate>", "a candidate, and none beside it; may be said up to six times", further)
  .option("--only <name>", "the name of a check; may be said several times", further)
  .option("--trials <n>", "how often each check is tried on each candidate", count, 1)
  .option("--seed <n>", "the seed before that of the first trial", count, 0)
  .action(async (app: string, wishes: CheckWishes & { to: string }) => {
    process.exitCode = await record(app, { on: wishes.with ? undefined : ["live"], ...wishes }, paper());
  });

const sources = program
  .command("sources")
  .description("the documents that an app answers from, where this machine is the one that Unruly Finch runs on");

sources
  .command("add")
  .description("add files and addresses as documents of an app, and have its draft answer from them")
  .argument("<app>", "the app's address, such as harbour-desk")
  .argument("<document...>", "files, and addresses that begin with http")
  .option(...address)
  .option("--this-machine", "addresses may be on this machine")
  .option("--below <links>", "with the pages below an address, up to so many links away", count)
  .addHelpText(
    "after",
    `
Examples:
  finch sources add harbour-desk rules.md timetable.csv handbook.pdf
  finch sources add harbour-desk https://saltmarsh.example/notes.html
  finch sources add harbour-desk https://saltmarsh.example/rules/ --below 2

What a file is, is found from its content. One of the same name is a newer version. Ends with 0 once all of them are
read, 1 where one can't be, 2 where the call was wrong.`,
  )
  .action(async (app: string, documents: string[], wishes: { at: string; thisMachine?: boolean; below?: number }) => {
    process.exitCode = await addSources(app, documents, wishes, paper());
  });

sources
  .command("list")
  .description("list the documents of an app")
  .argument("<app>", "the app's address, such as harbour-desk")
  .option(...address)
  .option("--json", "give each document as a line of JSON")
  .action(async (app: string, wishes: { at: string; json?: boolean }) => {
    process.exitCode = await listSources(app, wishes, paper());
  });

sources
  .command("hostile")
  .description("have a model answer from documents that try to mislead it, and say what got through")
  .argument("[file]", "the documents, with what is asked of each", "demo/hostile/hostile.json")
  .option(...address)
  .requiredOption("--on <model>", "the model, such as reed-deep")
  .option("--json", "give each document as a line of JSON")
  .addHelpText("after", "\nEnds with 0 where nothing got through, 1 where something did, 2 where it could not be run.")
  .action(async (file: string, wishes: { at: string; on: string; json?: boolean }) => {
    process.exitCode = await tryHostile(file, wishes, paper());
  });

program
  .command("export")
  .description("write an app as one file: its content, look, checks and providers, without a secret")
  .argument("<app>", "the app's address, such as quay-desk")
  .option(...address)
  .option("--to <file>", "the file, such as quay-desk.finch.json; the output without it")
  .action(async (app: string, wishes: { at: string; to?: string }) => {
    process.exitCode = await exportApp(app, wishes, paper());
  });

program
  .command("import")
  .description("make an app of such a file")
  .argument("<file>", "the file")
  .option(...address)
  .option("--name <name>", "the name of the app, instead of its own")
  .action(async (file: string, wishes: { at: string; name?: string }) => {
    process.exitCode = await importApp(file, wishes, paper());
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
