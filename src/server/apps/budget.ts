import type { Problem } from "@/core/problem/problem";
import { dayBegan } from "@/core/revision/clock";
import { type Prices, priceOf } from "@/core/tokens/price";
import { Refusal } from "../ground/refusal";
import type { ReadyContext, Speaker } from "../making/types";
import type { HasReservations } from "../spend/reservations";
import type { HasSpend } from "../spend/spend-store";
import type { HasApps, StoredApp } from "./app-store";

/**
 * The most that a call can cost, in millionths of the currency, at the dearest of the models that may answer.
 * @param input the most tokens that are sent
 * @param output tokens that a reply may have; what the window leaves where that is not limited
 */
export function mostOf(
  models: readonly { window: number; price: Prices }[],
  input: number,
  output: number | undefined,
  takes: number,
): number {
  const each = models.map(({ window, price }) => {
    const dearest = {
      input: Math.max(price.input, price.cachedInput ?? 0, price.cacheWrite ?? 0),
      output: Math.max(price.output, price.thought ?? 0),
      currency: price.currency,
    };
    return priceOf({ input, output: (output ?? Math.max(window - input, 0)) * takes }, dearest);
  });
  return Math.ceil(Math.max(...each) * 1_000_000);
}

/**
 * Holds the most that calls can cost against what an app may spend a day; gives how to let go of each.
 * @param calls the most of each, in millionths
 * @param isTold whether who asks is told what the app spends
 * @throws {Refusal} `over-limit` where the day has no room for all of them
 */
export function holdForCalls(
  { reservations, spend, apps }: HasApps & HasSpend & HasReservations,
  app: StoredApp,
  calls: readonly number[],
  currency: string,
  now: number,
  isTold: boolean,
): (() => void)[] {
  const { day } = app.access.limits;
  if (day === null) return calls.map(() => () => {});
  const timeZone = apps.revision(app.id, app.liveRevision)?.content.timeZone;
  const began = dayBegan(now, timeZone);
  const [spent, held] = [spend.since(app.id, began), reservations.of(app.id)];
  const wanted = calls.reduce((sum, each) => sum + each, 0);
  const limit = Math.round(day * 1_000_000);
  if (spent + held + wanted > limit) {
    const money = (millionths: number) => `${(millionths / 1_000_000).toFixed(4)} ${currency}`;
    const ends = dayBegan(began + 30 * 3_600_000, timeZone);
    throw new Refusal({
      kind: "over-limit",
      // what an app spends is not told to those who call it
      detail: isTold
        ? `${app.name} may spend ${money(limit)} a day: ${money(spent)} are spent, ${money(held)} are held for calls under way, and this can cost ${money(wanted)}.`
        : `${app.name} has reached what all of its replies may cost in a day.`,
      advice: isTold ? "Raise the limit of a day in Serve, or wait for the next day." : "Come back tomorrow.",
      retryAfter: Math.max(Math.ceil((ends - now) / 1000), 1),
    });
  }
  return calls.map((each) => reservations.hold(app.id, each));
}

/** The money that is held for one making: for its first round, and then for each further one anew. */
export class HeldMoney {
  constructor(
    private readonly home: HasApps & HasSpend & HasReservations,
    private readonly app: StoredApp,
    private readonly maxOutput: number | undefined,
    private readonly isTold: boolean,
    private letGo: () => void,
  ) {}

  /** Lets go of it. */
  readonly settle = (): void => this.letGo();

  /** Holds the most that a further round can cost instead; the problem where the day has no room for it. */
  readonly hold = ({ model }: Speaker, { ledger }: ReadyContext): Problem | undefined => {
    this.letGo();
    this.letGo = () => {};
    const sent = ledger ? ledger.tokens + (ledger.margin ?? 0) : model.window;
    const most = mostOf([model], sent, this.maxOutput, 1);
    try {
      const [held] = holdForCalls(this.home, this.app, [most], model.price.currency, Date.now(), this.isTold);
      this.letGo = held ?? (() => {});
      return undefined;
    } catch (error) {
      if (error instanceof Refusal) return error.problem;
      throw error;
    }
  };
}
