import { useCallback, useMemo, useState } from "react";
import type { Provider } from "@/contract/providers";
import { weighed } from "@/core/context/assemble";
import { type Forecast, forecastOn } from "@/core/context/forecast";
import { type AtHand, trackOf } from "@/core/context/track";
import { unknownModel } from "@/core/provider/model";
import { modelsThatSee } from "@/core/provider/places";
import type { Content } from "@/core/revision/content";
import type { FoundPassage } from "@/core/sources/found";
import { uncalibrated } from "@/core/tokens/calibration";
import type { Prices } from "@/core/tokens/price";
import { everyPlace } from "@/core/wire/places";
import { useNow } from "../shared/use-now";

const unknown = { ...unknownModel(""), calibration: uncalibrated, places: everyPlace };

/**
 * What the next dispatch of a draft would carry, and what those who may answer it cost. The line is gone through when
 * it changes, not with each keystroke.
 * @param found what the message that is typed finds in the documents; undefined where that is not known
 */
export function useForecast(
  content: Content,
  atHand: AtHand,
  providers: readonly Provider[],
  found: readonly FoundPassage[] | undefined,
): { ahead: Forecast; prices: Prices[] } {
  const now = useNow();
  const { window, calibration, places } = modelOf(providers, content);
  const { memory, provider, model } = content;
  const seeing = useMemo(() => {
    const models = modelsThatSee(providers);
    return () => models;
  }, [providers]);
  const { maxOutput } = content.settings;
  const track = useMemo(
    () => trackOf(atHand, memory, weighed(calibration, { places }), { provider, model }),
    [atHand, memory, calibration, places, provider, model],
  );
  const ahead = useMemo(
    () => forecastOn(content, track, { window, maxOutput, places, seeing }, now, { found }),
    [content, track, window, maxOutput, places, seeing, now, found],
  );
  const prices = useMemo(
    () => [content, ...(content.fallbacks ?? [])].map((speaker) => modelOf(providers, speaker).price),
    [content, providers],
  );
  return { ahead, prices };
}

function modelOf(providers: readonly Provider[], { provider, model }: Pick<Content, "provider" | "model">) {
  const models = providers.find(({ slug }) => slug === provider)?.models;
  return models?.find(({ name }) => name === model) ?? unknown;
}

/**
 * The reach with what is typed, which what writes it tells. It changes only where the typed words change what is
 * carried: so typing draws no row again.
 */
export function useTypedReach(ahead: Forecast): { reach: Forecast; onReach: (typed: Forecast) => void } {
  const [typed, setTyped] = useState(ahead);
  const onReach = useCallback(
    (next: Forecast) => setTyped((before) => (before.track === next.track && sameRows(before, next) ? before : next)),
    [],
  );
  return { reach: typed.track === ahead.track ? typed : ahead, onReach };
}

/** Whether the same is carried of a track, for the same reasons. */
function sameRows(a: Forecast, b: Forecast): boolean {
  const pins = ({ pins }: Forecast) => JSON.stringify([...pins.values()]);
  const carriedOf = ({ parts }: Forecast) =>
    parts
      .flatMap(({ kind, carried, stands }) => (carried && stands !== "after" && kind !== "turns" ? [kind] : []))
      .join();
  return a.from === b.from && a.above.fate === b.above.fate && carriedOf(a) === carriedOf(b) && pins(a) === pins(b);
}
