import { useQuery, useQueryClient } from "@tanstack/react-query";
import { providers } from "@/contract/providers";
import type { FaultPlan } from "@/contract/trials";
import { server } from "../shared/api";
import { keys } from "../shared/queries";
import { ChoiceWord, NumberWord } from "../shared/words";

/** The faults, what they say, and the numbers that they need. */
const faults: Record<string, { says: string; needs: Partial<FaultPlan> }> = {
  "slow-start": { says: "begins late", needs: { ms: 3000 } },
  "slow-drip": { says: "drips", needs: { ms: 400 } },
  stalled: { says: "falls silent", needs: { after: 5 } },
  dropped: { says: "drops the connection", needs: { after: 5 } },
  "broken-json": { says: "sends broken JSON", needs: { after: 5 } },
  "cut-in-character": { says: "cuts inside of characters", needs: {} },
  "cut-at-every-byte": { says: "cuts at every byte", needs: {} },
  "held-back": { says: "holds the stream back to its end", needs: {} },
  status: { says: "answers with a status", needs: { status: 429, retryAfter: 2 } },
  redirect: { says: "redirects elsewhere", needs: {} },
  page: { says: "answers with a page", needs: {} },
  empty: { says: "says nothing", needs: {} },
  "no-end": { says: "leaves out the end", needs: {} },
  twice: { says: "says an event twice", needs: { after: 3 } },
  "never-ends": { says: "never ends", needs: {} },
  "no-usage": { says: "reports no usage", needs: {} },
  "wrong-usage": { says: "reports wrong usage", needs: {} },
};

/** What a stand-in does wrong on purpose, as a sentence; nothing for any other provider. */
export function FaultWords({
  provider,
  name,
  onFailed,
}: {
  provider: string;
  name: string;
  onFailed: (error: unknown) => void;
}) {
  const client = useQueryClient();
  const { data } = useQuery({
    queryKey: keys.fault(provider),
    queryFn: () => server.send(providers.fault, { id: provider }),
  });
  if (!data?.isStandIn) return null;
  const { plan } = data;
  const set = async (next: FaultPlan | null) => {
    try {
      if (next) await server.send(providers.setFault, { id: provider, body: next });
      else await server.send(providers.clearFault, { id: provider });
    } catch (error) {
      onFailed(error);
    }
    await client.invalidateQueries({ queryKey: keys.fault(provider) });
  };
  const number = (
    label: string,
    field: "ms" | "after" | "status" | "retryAfter" | "calls",
    min: number,
    max: number,
    empty?: string,
  ) => (
    <NumberWord
      label={label}
      value={plan?.[field]}
      min={min}
      max={max}
      empty={empty}
      onChange={(value) => plan && void set({ ...plan, [field]: value })}
    />
  );
  return (
    <p>
      {name} is a stand-in, and on purpose it{" "}
      <ChoiceWord
        label="Fault plan"
        value={plan?.fault ?? "none"}
        options={[
          { value: "none", label: "does nothing wrong" },
          ...Object.entries(faults).map(([value, { says }]) => ({ value, label: says })),
        ]}
        onChange={(fault) => void set(fault === "none" ? null : { fault, ...faults[fault]?.needs })}
      />
      {plan?.after !== undefined && <> after {number("Events before the fault", "after", 0, 10_000)} events</>}
      {plan?.ms !== undefined && <> by {number("Milliseconds of the fault", "ms", 0, 600_000)} ms</>}
      {plan?.status !== undefined && (
        <>
          {" "}
          {number("Status of the fault", "status", 400, 599)}, asking to wait{" "}
          {number("Seconds to wait", "retryAfter", 0, 600, "no")} s
        </>
      )}
      {plan && <>, for {number("Calls of the fault", "calls", 1, 10_000, "all")} calls</>}.
    </p>
  );
}
