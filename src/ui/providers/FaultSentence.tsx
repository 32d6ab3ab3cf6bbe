import { useQuery } from "@tanstack/react-query";
import { providers } from "@/contract/providers";
import type { FaultPlan } from "@/contract/tries";
import { server } from "../shared/api";
import { ChoiceValue } from "../shared/inline/ChoiceValue";
import { NumberValue } from "../shared/inline/NumberValue";
import { ProblemNote } from "../shared/ProblemNote";
import { keys } from "../shared/queries";
import { useChange } from "../shared/use-change";

/** What a stand-in does wrong on purpose, as a sentence; nothing for any other provider. */
export function FaultSentence({ provider, name }: { provider: string; name: string }) {
  const { data } = useQuery({
    queryKey: keys.fault(provider),
    queryFn: () => server.send(providers.fault, { id: provider }),
  });
  const planning = useChange(
    "The fault plan",
    (next: FaultPlan | null) =>
      next
        ? server.send(providers.setFault, { id: provider, body: next })
        : server.send(providers.clearFault, { id: provider }),
    [keys.fault(provider)],
  );
  if (!data?.isStandIn) return null;
  const { plan, faults } = data;
  const set = planning.run;
  const number = (
    label: string,
    field: "ms" | "after" | "status" | "retryAfter" | "calls",
    min: number,
    max: number,
    empty?: string,
  ) => (
    <NumberValue
      label={label}
      value={plan?.[field]}
      min={min}
      max={max}
      none={empty === undefined ? undefined : { said: empty }}
      onChange={(value) => plan && set({ ...plan, [field]: value })}
    />
  );
  return (
    <>
      <p>
        {name} is a stand-in, and on purpose it{" "}
        <ChoiceValue
          label="Fault plan"
          value={plan?.fault ?? "none"}
          options={[
            { value: "none", label: "does nothing wrong" },
            ...faults.map((fault) => ({ value: fault.name, label: fault.says })),
          ]}
          onChange={(fault) =>
            set(fault === "none" ? null : { fault, ...faults.find((each) => each.name === fault)?.needs })
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
      {planning.problem && <ProblemNote problem={planning.problem} />}
    </>
  );
}
