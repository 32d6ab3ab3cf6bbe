import { useMemo, useState } from "react";
import type { Provider } from "@/contract/providers";
import type { Clear } from "@/core/context/clear";
import { type Forecast, forecast } from "@/core/context/forecast";
import type { Message } from "@/core/conversation/message";
import type { Content } from "@/core/revision/revision";
import { uncalibrated } from "@/core/tokens/calibration";
import type { Prices } from "@/core/tokens/price";

const unknownModel = { window: 8192, price: { input: 0, output: 0, currency: "EUR" }, calibration: uncalibrated };

/** What the next dispatch of a draft would carry, and what its model costs. */
export function useForecast(
  content: Content,
  line: readonly Message[],
  providers: readonly Provider[],
  clear: Clear | null,
): { ahead: Forecast; prices: Prices } {
  const [now] = useState(() => Date.now());
  const provider = providers.find(({ slug }) => slug === content.provider);
  const model = provider?.models.find(({ name }) => name === content.model) ?? unknownModel;
  const { window, calibration, price } = model;
  const { maxOutput } = content.settings;
  const ahead = useMemo(
    () => forecast(content, line, { window, calibration, maxOutput }, now, clear),
    [content, line, window, calibration, maxOutput, now, clear],
  );
  return { ahead, prices: price };
}
