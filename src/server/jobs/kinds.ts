import type { Work } from "@/contract/jobs";
import type { Home } from "../home";
import { letGoOfImport, runImport, undoImport } from "./import-job";
import type { Kind } from "./runner";
import { runSayAgain } from "./say-again";

/** Every kind of long work, done with what the process has one of. */
export function kindsFor(home: () => Home): Record<Work["kind"], Kind> {
  return {
    import: {
      run: (job, signal) => runImport(home(), job, signal),
      undo: (id) => undoImport(home(), id),
      left: (job) => letGoOfImport(home(), job),
      leave(id) {
        const { writer, log } = home();
        writer.call("leave", { job: id }).catch((error) => log.error({ error }, "the writing thread is gone"));
      },
    },
    "say-again": { run: (job, signal) => runSayAgain(home(), job, signal), left: () => true },
  };
}
