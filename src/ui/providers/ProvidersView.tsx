"use client";

import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Button, Input } from "antd";
import Link from "next/link";
import { type FormEvent, useState } from "react";
import {
  type ChangeProvider,
  type Provider,
  providerSchema,
  standingSchema,
  type WireProvider,
} from "@/contract/providers";
import { type Problem, titleOf } from "@/core/reply/problem";
import { CallFailed, call, tell } from "../shared/api";
import { count, duration, many, rate } from "../shared/format";
import { ProblemNote } from "../shared/ProblemNote";
import { keys, useApps, useOffers, useProviders } from "../shared/queries";
import { NumberWord, TextWord } from "../shared/words";
import styles from "./ProvidersView.module.css";

const wireAnother = "wire another";

/** The providers that are wired, whether each answers, and the way to wire another. */
export function ProvidersView() {
  const providers = useProviders();
  const [chosen, setChosen] = useState<string>();
  const all = providers.data?.providers ?? [];
  const open = chosen === wireAnother ? undefined : (all.find(({ id }) => id === chosen) ?? all[0]);
  return (
    <main className={styles.view} aria-busy={providers.isPending}>
      <h1 className="unseen">Providers</h1>
      <nav className={styles.list} aria-label="Providers">
        {all.map((provider) => (
          <button
            type="button"
            key={provider.id}
            aria-current={provider === open ? "true" : undefined}
            onClick={() => setChosen(provider.id)}
          >
            {provider.name}
            <Standing provider={provider} />
          </button>
        ))}
        <button
          type="button"
          className={styles.wire}
          aria-current={open ? undefined : "true"}
          onClick={() => setChosen(wireAnother)}
        >
          {all.length === 0 ? "Wire the first" : "Wire another"}
        </button>
      </nav>
      <section className={styles.main} aria-label={open?.name ?? "Wire a model API"}>
        {providers.error instanceof CallFailed && <ProblemNote problem={providers.error.problem} />}
        {open && <OpenProvider key={open.id} provider={open} />}
        {providers.isSuccess && !open && <Wire onWired={setChosen} isFirst={all.length === 0} />}
      </section>
    </main>
  );
}

function useStanding(provider: Provider) {
  return useQuery({
    queryKey: [...keys.standing(provider.id), provider.address, provider.keyVariable],
    queryFn: () => call("GET", `/api/bench/providers/${provider.id}/standing`, standingSchema),
  });
}

function Standing({ provider }: { provider: Provider }) {
  const { data } = useStanding(provider);
  const word =
    data === undefined ? "asking" : data.problem ? titleOf(data.problem.kind).replace(/^The provider /, "") : "answers";
  return (
    <small data-standing={data?.problem ? "bad" : "good"}>
      {many(provider.models.length, "model")} · {word}
    </small>
  );
}

function OpenProvider({ provider }: { provider: Provider }) {
  const client = useQueryClient();
  const standing = useStanding(provider);
  const [address, setAddress] = useState(provider.address);
  const [keyVariable, setKeyVariable] = useState(provider.keyVariable ?? "");
  const [problem, setProblem] = useState<Problem>();

  const change = async (changed: ChangeProvider) => {
    setProblem(undefined);
    try {
      await call("PATCH", `/api/bench/providers/${provider.id}`, providerSchema, changed);
      await client.invalidateQueries({ queryKey: keys.providers });
    } catch (error) {
      if (error instanceof CallFailed) setProblem(error.problem);
    }
  };
  const remove = async () => {
    try {
      await tell("DELETE", `/api/bench/providers/${provider.id}`);
      await client.invalidateQueries({ queryKey: keys.providers });
    } catch (error) {
      if (error instanceof CallFailed) setProblem(error.problem);
    }
  };
  const limit = (name: keyof Provider["limits"], label: string) => (
    <NumberWord
      label={label}
      value={provider.limits[name] / 1000}
      min={0.1}
      max={600}
      onChange={(seconds) =>
        seconds !== undefined && change({ limits: { ...provider.limits, [name]: Math.round(seconds * 1000) } })
      }
    />
  );
  return (
    <>
      <div className={styles.sentence}>
        {provider.name} answers at{" "}
        <TextWord
          label="Address"
          value={address}
          onChange={setAddress}
          onDone={() => address !== provider.address && change({ address })}
        />
        , {provider.keyVariable === null ? "without a key" : "with a key from"}{" "}
        <TextWord
          label="Environment variable of the key"
          value={keyVariable}
          placeholder="no variable"
          onChange={setKeyVariable}
          onDone={() => keyVariable !== (provider.keyVariable ?? "") && change({ keyVariable: keyVariable || null })}
        />
        {provider.keyVariable !== null && (
          <span data-standing={provider.keyIsSet ? "good" : "bad"}> ({provider.keyIsSet ? "set" : "not set"})</span>
        )}
        . It has {limit("connect", "Seconds to connect")} s to connect, {limit("first", "Seconds to the first event")} s
        for the first event, {limit("between", "Seconds between events")} s between events and{" "}
        {limit("all", "Seconds in all")} s in all.
      </div>
      {problem && <ProblemNote problem={problem} />}

      <h2>Whether it answers</h2>
      <div role="status">
        {standing.isFetching && <p className={styles.quiet}>Asking it for its models.</p>}
        {!standing.isFetching && standing.data && !standing.data.problem && (
          <p>
            <b data-standing="good">It answers</b> in {duration(standing.data.answeredMs ?? 0)}, takes the key, and
            lists {standing.data.models.join(", ")}.
          </p>
        )}
        {!standing.isFetching && standing.data?.problem && <ProblemNote problem={standing.data.problem} />}
      </div>
      <Button onClick={() => void standing.refetch()}>Ask again</Button>

      <h2>Models</h2>
      <table className={styles.models}>
        <thead>
          <tr>
            <th scope="col">Model</th>
            <th scope="col">Context window</th>
            <th scope="col">A million tokens in</th>
            <th scope="col">and out</th>
            <th scope="col">Tokens it counts per estimated one</th>
          </tr>
        </thead>
        <tbody>
          {provider.models.map(({ name, window, price: { input, output, currency }, calibration }) => (
            <tr key={name}>
              <th scope="row">{name}</th>
              <td>{count(window)}</td>
              <td>{rate(input, currency)}</td>
              <td>{rate(output, currency)}</td>
              <td>
                {calibration.calls === 0
                  ? "not known yet"
                  : `${calibration.ratio.toFixed(2)}, from ${many(calibration.calls, "call")}`}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <p className={styles.quiet}>
        Spoken as: {provider.shape}.{" "}
        {provider.apps === 0 ? (
          <button type="button" className="link" onClick={remove}>
            delete {provider.name}
          </button>
        ) : (
          `${many(provider.apps, "app")} ${provider.apps === 1 ? "speaks" : "speak"} through it.`
        )}
      </p>
    </>
  );
}

function Wire({ isFirst, onWired }: { isFirst: boolean; onWired: (id: string) => void }) {
  const client = useQueryClient();
  const offers = useOffers();
  const apps = useApps();
  const [problem, setProblem] = useState<Problem>();
  const wire = async (provider: WireProvider) => {
    setProblem(undefined);
    try {
      const wired = await call("POST", "/api/bench/providers", providerSchema, provider);
      await client.invalidateQueries({ queryKey: keys.providers });
      void client.invalidateQueries({ queryKey: keys.offers });
      onWired(wired.id);
    } catch (error) {
      if (error instanceof CallFailed) setProblem(error.problem);
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
          <div className={styles.sentence}>
            <b>{offer.name}</b>, a stand-in, runs on this machine at <code>{offer.address}</code>, with{" "}
            {offer.models.map(({ name }) => name).join(" and ")}. Its key is read from <code>{offer.keyVariable}</code>.
          </div>
          <Button type="primary" onClick={() => void wire(offer)}>
            Wire {offer.name}
          </Button>
        </div>
      ))}
      {problem && <ProblemNote problem={problem} />}
      <WireForm onWire={wire} hasOffer={(offers.data?.offers.length ?? 0) > 0} />
    </>
  );
}

function WireForm({ onWire, hasOffer }: { onWire: (provider: WireProvider) => Promise<void>; hasOffer: boolean }) {
  const [fields, setFields] = useState({
    name: "",
    address: "http://",
    keyVariable: "",
    model: "",
    window: 8192,
    input: 0,
    output: 0,
  });
  const set = (change: Partial<typeof fields>) => setFields({ ...fields, ...change });
  const submit = (event: FormEvent) => {
    event.preventDefault();
    const { name, address, keyVariable, model, window, input, output } = fields;
    void onWire({
      name,
      address,
      profile: "chat-completions",
      keyVariable: keyVariable === "" ? null : keyVariable,
      models: [{ name: model, window, price: { input, output, currency: "EUR" } }],
    });
  };
  const isWhole = fields.name.trim() !== "" && fields.model.trim() !== "" && fields.address.length > 8;
  return (
    <form onSubmit={submit} className={styles.form}>
      <h2>{hasOffer ? "Or wire another model API" : "Wire a model API"}</h2>
      <p className={styles.quiet}>
        One that takes chat completions and streams server-sent events. Other shapes are not spoken yet.
      </p>
      <label>
        Name
        <Input value={fields.name} onChange={(event) => set({ name: event.target.value })} />
      </label>
      <label>
        Address
        <Input value={fields.address} onChange={(event) => set({ address: event.target.value })} />
      </label>
      <label>
        Variable of its key
        <Input
          value={fields.keyVariable}
          placeholder="none"
          onChange={(event) => set({ keyVariable: event.target.value })}
        />
      </label>
      <label>
        Model
        <Input value={fields.model} onChange={(event) => set({ model: event.target.value })} />
      </label>
      <div className={styles.sentence}>
        Its context window is{" "}
        <NumberWord
          label="Context window in tokens"
          value={fields.window}
          min={1}
          max={10_000_000}
          onChange={(value) => set({ window: value ?? 8192 })}
        />{" "}
        tokens; a million tokens cost €{" "}
        <NumberWord
          label="Euros for a million tokens in"
          value={fields.input}
          min={0}
          max={10_000}
          onChange={(value) => set({ input: value ?? 0 })}
        />{" "}
        in and €{" "}
        <NumberWord
          label="Euros for a million tokens out"
          value={fields.output}
          min={0}
          max={10_000}
          onChange={(value) => set({ output: value ?? 0 })}
        />{" "}
        out.
      </div>
      <Button htmlType="submit" type={hasOffer ? "default" : "primary"} disabled={!isWhole}>
        Wire it
      </Button>
    </form>
  );
}
