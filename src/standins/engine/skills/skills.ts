import type { Skill } from "../scene";
import { asking } from "./asking";
import { code } from "./code";
import { courtesy } from "./courtesy";
import { digesting } from "./digesting";
import { echo } from "./echo";
import { ferry } from "./ferry";
import { given, told } from "./given";
import { joke } from "./joke";
import { judging } from "./judging";
import { subjects } from "./notes";
import { proposing } from "./proposing";
import { recall } from "./recall";
import { recipe } from "./recipe";
import { reckoning } from "./reckoning";
import { standingAlone } from "./standing-alone";
import { summing } from "./summing";
import { talk } from "./talk";
import { writing } from "./writing";

/** Everything that the engine can do, in the order in which a message is shown to it. */
export const skills: readonly Skill<unknown>[] = [
  judging,
  proposing,
  digesting,
  standingAlone,
  asking,
  echo,
  summing,
  talk,
  courtesy,
  recipe,
  recall,
  reckoning,
  code,
  joke,
  writing,
  given,
  ferry,
  subjects,
  told,
] as Skill<unknown>[];
