import { type ListedSet, sets } from "@/contract/sets";
import { server } from "../../shared/api";
import { many } from "../../shared/format";
import { keys } from "../../shared/queries";
import { useChange } from "../../shared/use-change";
import { SavedList } from "../SavedList";

/** The sets that are saved: each is opened or deleted. */
export function SetList({
  slug,
  all,
  ...shown
}: {
  slug: string;
  all: readonly ListedSet[];
  /** The one that is open. */
  open: string | undefined;
  onDeleted: (id: string) => void;
  onClose: () => void;
}) {
  const touches = [keys.sets(slug), keys.jobs];
  const deleting = useChange("Deleting it", (id: string) => server.send(sets.delete, { id }), touches);
  const restoring = useChange("Restoring it", (id: string) => server.send(sets.restore, { id }), touches);
  return (
    <SavedList
      {...shown}
      {...{ deleting, restoring }}
      what="set"
      heads={["messages", "lanes", "state"]}
      whenEmpty="Nothing is saved yet: a set is saved by itself once it is asked."
      all={all.map(({ id, name, opening, rows, lanes, state, updatedAt }) => ({
        id,
        title: name ?? opening,
        cells: [many(rows, "message"), lanes, state === "running" || state === "waiting" ? "under way" : state],
        updatedAt,
      }))}
      hrefOf={(id) => `/apps/${slug}/compare?set=${id}`}
    />
  );
}
