import { Button } from "antd";
import Link from "next/link";
import type { WireProvider } from "@/contract/providers";
import { providers } from "@/contract/providers";
import { server } from "../shared/api";
import { ProblemNote } from "../shared/ProblemNote";
import { keys, useApps, useOffers } from "../shared/queries";
import { useChange } from "../shared/use-change";
import { FitSheet } from "./fit/FitSheet";
import styles from "./ProvidersView.module.css";

/** The ways to wire a model API: a stand-in that runs here, or any other from a command that works. */
export function WireAnother({ isFirst, onWired }: { isFirst: boolean; onWired: (id: string) => void }) {
  const offers = useOffers();
  const apps = useApps();
  const wiring = useChange("The wiring", (body: WireProvider) => server.send(providers.wire, { body }), [
    keys.providers,
    keys.offers,
  ]);
  const wire = async (provider: WireProvider): Promise<boolean> => {
    const wired = await wiring.done(provider);
    if (wired.ok) onWired(wired.value.id);
    return wired.ok;
  };
  return (
    <>
      {isFirst && (
        <div className={styles.sentence}>
          An app speaks through a model API. Wire the first one here
          {apps.data?.apps.length === 0 && (
            <>
              , then <Link href="/apps">make an app</Link>
            </>
          )}
          .
        </div>
      )}
      {offers.data?.offers.map((offer) => (
        <div key={offer.address} className={styles.offer}>
          <span>
            <b>{offer.name}</b>, a stand-in, runs on this machine at <code>{offer.address}</code>, with{" "}
            {offer.models.map(({ name }) => name).join(" and ")}.
            {offer.credential.kind === "none" ? " It takes no key." : " A sample key comes along where none is set."}
          </span>
          <Button
            type={isFirst && offer === offers.data.offers[0] ? "primary" : "default"}
            onClick={() => void wire(offer)}
          >
            Wire {offer.name}
          </Button>
        </div>
      ))}
      <FitSheet onWire={wire} />
      {wiring.problem && <ProblemNote problem={wiring.problem} />}
    </>
  );
}
