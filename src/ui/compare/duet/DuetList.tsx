import { duets, type ListedDuet } from "@/contract/duets";
import type { DuetEnd } from "@/core/comparing/duet/duet";
import { server } from "../../shared/api";
import { many } from "../../shared/format";
import { keys } from "../../shared/queries";
import { useChange } from "../../shared/use-change";
import { SavedList } from "../SavedList";

const wordOf: Record<DuetEnd["kind"], string> = {
  rounds: "after its rounds",
  goodbye: "with a goodbye",
  circles: "in circles",
  price: "at its price",
  tokens: "at its tokens",
  stopped: "stopped",
  failed: "failed",
};

/** The duets that are saved: each is opened or deleted. */
export function DuetList({
  slug,
  all,
  ...shown
}: {
  slug: string;
  all: readonly ListedDuet[];
  /** The one that is open. */
  open: string | undefined;
  onDeleted: (id: string) => void;
  onClose: () => void;
}) {
  const touches = [keys.duets(slug)];
  const deleting = useChange("Deleting it", (id: string) => server.send(duets.delete, { id }), touches);
  const restoring = useChange("Restoring it", (id: string) => server.send(duets.restore, { id }), touches);
  return (
    <SavedList
      {...shown}
      {...{ deleting, restoring }}
      what="duet"
      heads={["said", "how it ended"]}
      whenEmpty="Nothing is saved yet: a duet is saved by itself once it has begun."
      all={all.map(({ id, name, opening, utterances, ended, updatedAt }) => ({
        id,
        title: name ?? opening,
        cells: [many(utterances, "utterance"), ended ? wordOf[ended.kind] : "under way"],
        updatedAt,
      }))}
      hrefOf={(id) => `/apps/${slug}/compare?duet=${id}`}
    />
  );
}
