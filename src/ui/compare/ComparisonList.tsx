import { comparisons, type ListedComparison } from "@/contract/comparisons";
import { Action } from "../shared/Action";
import { server } from "../shared/api";
import { many } from "../shared/format";
import { TextValue } from "../shared/inline/TextValue";
import { keys } from "../shared/queries";
import { useChange } from "../shared/use-change";
import { SavedList } from "./SavedList";

/** The comparisons that are saved: each is opened, named, copied or deleted. */
export function ComparisonList({
  slug,
  all,
  ...shown
}: {
  slug: string;
  all: readonly ListedComparison[];
  /** The one that is open. */
  open: string | undefined;
  onDeleted: (id: string) => void;
  onClose: () => void;
}) {
  const touches = [keys.comparisons(slug), ["comparison"]];
  const naming = useChange(
    "The name",
    ({ id, name }: { id: string; name: string }) =>
      server.send(comparisons.name, { id, body: { name: name.trim() || null } }),
    touches,
  );
  const copying = useChange("The copy", (id: string) => server.send(comparisons.copy, { id, body: {} }), touches);
  const deleting = useChange("Deleting it", (id: string) => server.send(comparisons.delete, { id }), touches);
  const restoring = useChange("Restoring it", (id: string) => server.send(comparisons.restore, { id }), touches);
  return (
    <SavedList
      {...shown}
      {...{ deleting, restoring }}
      what="comparison"
      heads={["name", "turns", "lanes"]}
      whenEmpty="Nothing is saved yet: a comparison is saved by itself once it was asked something."
      all={all.map(({ id, name, opening, turns, lanes, updatedAt }) => ({
        id,
        title: name ?? opening,
        cells: [
          <TextValue
            key="name"
            label={`Name of ${name ?? opening.slice(0, 40)}`}
            value={name ?? ""}
            placeholder="none"
            maxLength={100}
            onChange={(next) => naming.run({ id, name: next })}
          />,
          many(turns, "turn"),
          lanes,
        ],
        updatedAt,
      }))}
      hrefOf={(id) => `/apps/${slug}/compare?comparison=${id}`}
      problem={naming.problem ?? copying.problem}
      actsOn={(id) => <Action onClick={() => copying.run(id)}>copy</Action>}
    />
  );
}
