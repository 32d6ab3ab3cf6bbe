import type { health } from "@/contract/health";
import { version } from "../../../package.json";
import type { HasStorage } from "../database/storage-watch";
import type { HasEnd } from "../ground/ending";
import type { HasHub } from "../live/hub";
import { Answered, type Handle } from "./serve";

/** Whether the server answers and can store what it is told; 503 where it can't. */
export const healthAnswer: Handle<typeof health, HasStorage & HasHub & HasEnd> = ({ hub, storage, isClosing }) => {
  const problem = hub.problem ?? storage.problem ?? null;
  const ok = problem === null && !isClosing();
  return new Answered(ok ? 200 : 503, { ok, version, problem });
};
