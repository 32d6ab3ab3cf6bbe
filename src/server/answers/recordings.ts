import type { KeptRecordings } from "@/contract/recordings";
import { fileOf, mostRecordings, NotRecordings, recordingsIn } from "@/core/recordings/file";
import type { StoredApp } from "../apps/app-store";
import { refuse } from "../ground/refusal";
import type { HasRecordings } from "../recordings/recording-store";

/** How much is recorded of an app. */
export function keptAnswer({ recordings }: HasRecordings, { id }: StoredApp): KeptRecordings {
  return { ...recordings.kept(id), most: mostRecordings };
}

/** What is recorded of an app, as a file. */
export function recordingsFile({ recordings }: HasRecordings, { id }: StoredApp): string {
  return fileOf(recordings.all(id));
}

/** Puts the recordings of a file in the place of those that there are. @throws {Refusal} */
export function putRecordings(home: HasRecordings, app: StoredApp, text: string): KeptRecordings {
  try {
    if (!home.recordings.replace(app.id, recordingsIn(text)))
      refuse(
        "bad-request",
        `These are more than the ${mostRecordings / 1024 / 1024} MiB of recordings that an app may have.`,
        {
          advice: "Record fewer checks, or fewer trials of each.",
        },
      );
  } catch (error) {
    if (!(error instanceof NotRecordings)) throw error;
    refuse("bad-request", `This is no file of recordings. ${error.message}`, {
      advice: "Give the file that finch record wrote, as it is.",
    });
  }
  return keptAnswer(home, app);
}
