import { useQueryClient } from "@tanstack/react-query";
import { Button } from "antd";
import Link from "next/link";
import { useState } from "react";
import type { WireProvider } from "@/contract/providers";
import { providers } from "@/contract/providers";
import type { Problem } from "@/core/problem/problem";
import { problemIn, server } from "../shared/api";
import { ProblemNote } from "../shared/ProblemNote";
import { keys, useApps, useOffers } from "../shared/queries";
import { FitSheet } from "./FitSheet";
import styles from "./ProvidersView.module.css";

/** The ways to wire a model API: a stand-in that runs here, or any other from a command that works. */
export function WireAnother({ isFirst, onWired }: { isFirst: boolean; onWired: (id: string) => void }) {
  const client = useQueryClient();
  const offers = useOffers();
  const apps = useApps();
  const [problem, setProblem] = useState<Problem>();
  const wire = async (provider: WireProvider): Promise<boolean> => {
    setProblem(undefined);
    try {
      const wired = await server.send(providers.wire, { body: provider });
      await client.invalidateQueries({ queryKey: keys.providers });
      void client.invalidateQueries({ queryKey: keys.offers });
      onWired(wired.id);
      return true;
    } catch (error) {
      setProblem(problemIn(error, "The wiring"));
      return false;
    }
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
      {problem && <ProblemNote problem={problem} />}
    </>
  );
}
