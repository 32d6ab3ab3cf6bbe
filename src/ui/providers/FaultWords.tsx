import { useQuery, useQueryClient } from "@tanstack/react-query";
import { providers } from "@/contract/providers";
import type { FaultPlan } from "@/contract/trials";
import { server } from "../shared/api";
import { keys } from "../shared/queries";
import { ChoiceWord, NumberWord } from "../shared/words";

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
  const { plan, faults } = data;
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
          ...faults.map((fault) => ({ value: fault.name, label: fault.says })),
        ]}
        onChange={(fault) =>
          void set(fault === "none" ? null : { fault, ...faults.find((each) => each.name === fault)?.needs })
        }
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
