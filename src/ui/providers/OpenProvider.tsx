import { useQueryClient } from "@tanstack/react-query";
import { Button, Input } from "antd";
import { type ReactNode, useEffect, useRef, useState } from "react";
import type { ChangeProvider, Provider } from "@/contract/providers";
import { providers } from "@/contract/providers";
import { type Problem, wordFor } from "@/core/problem/problem";
import type { ProbeStep, ProviderPart } from "@/core/provider/probe";
import { Action } from "../shared/Action";
import { server } from "../shared/api";
import { ConfirmAction } from "../shared/Confirm";
import { duration, many } from "../shared/format";
import { ChoiceValue } from "../shared/inline/ChoiceValue";
import { NumberValue } from "../shared/inline/NumberValue";
import { TextValue } from "../shared/inline/TextValue";
import { ProblemNote } from "../shared/ProblemNote";
import { keys, useStanding } from "../shared/queries";
import { useChange } from "../shared/use-change";
import { CredentialSentence } from "./CredentialSentence";
import { FaultSentence } from "./FaultSentence";
import { ModelTable } from "./ModelTable";
import { ProbeStrip } from "./ProbeStrip";
import styles from "./ProvidersView.module.css";
import { TwoTexts } from "./TwoTexts";
import { ValuesSentence } from "./ValuesSentence";

/** A provider: how it is reached, what it gets and answers, its models, and its last probe. */
export function OpenProvider({
  provider,
  part,
  onOpen,
}: {
  provider: Provider;
  /** What is to be seen of it at first. */
  part?: ProviderPart;
  onOpen: (id: string | undefined) => void;
}) {
  const view = useRef<HTMLDivElement>(null);
  const [looked, setLooked] = useState<{ part: ProviderPart } | undefined>(part && { part });
  useEffect(() => {
    const place = looked && view.current?.querySelector<HTMLElement>(`[data-part="${looked.part}"]`);
    place?.scrollIntoView({ block: "center" });
    place?.querySelector<HTMLElement>("input, button, [tabindex]")?.focus({ preventScroll: true });
  }, [looked]);
  const client = useQueryClient();
  const standing = useStanding(provider);
  // what failed beside the server: an answer that was asked for, a file that was chosen
  const [failure, setFailure] = useState<Problem>();
  const [model, setModel] = useState(provider.models[0]?.name ?? "");
  const [steps, setSteps] = useState<ProbeStep[]>();
  const [copyName, setCopyName] = useState<string>();
  const stopProbe = useRef<AbortController>(undefined);

  const changing = useChange("The change", (work: () => Promise<unknown>) => work(), [keys.providers]);
  const carryOut = async (work: () => Promise<unknown>): Promise<boolean> => {
    setFailure(undefined);
    return (await changing.done(work)).ok;
  };
  const problem = failure ?? changing.problem;
  const change = (changed: ChangeProvider) =>
    carryOut(() => server.send(providers.change, { id: provider.id, body: changed }));
  const switchOn = (name: string) =>
    carryOut(async () => {
      await server.send(providers.switchOn, { id: provider.id, body: { model: name } });
      await standing.refetch();
    });
  const probe = () =>
    carryOut(async () => {
      const stop = new AbortController();
      stopProbe.current = stop;
      const done: ProbeStep[] = [];
      setSteps(done);
      for await (const line of server.lines(providers.probe, { id: provider.id, body: { model } }, stop.signal)) {
        done.push(line);
        setSteps([...done]);
      }
      await client.invalidateQueries({ queryKey: keys.standing(provider.id) });
    }).finally(() => setSteps(undefined));
  const copy = () =>
    carryOut(async () => {
      const made = await server.send(providers.copy, { id: provider.id, body: { name: copyName ?? "" } });
      setCopyName(undefined);
      await client.invalidateQueries({ queryKey: keys.providers });
      onOpen(made.id);
    });
  const remove = () =>
    carryOut(async () => {
      await server.send(providers.delete, { id: provider.id });
      onOpen(undefined);
    });

  return (
    <div className={styles.open} ref={view}>
      <div className={styles.sentence}>
        <TextValue label="Name" value={provider.name} onChange={(name) => void change({ name })} /> answers at{" "}
        <span data-part="address">
          <TextValue label="Address" value={provider.address} onChange={(address) => void change({ address })} />
        </span>
        ,{" "}
        <span data-part="key">
          <CredentialSentence credential={provider.credential} onChange={(credential) => change({ credential })} />
        </span>
        <ValuesSentence provider={provider} onChange={(changed) => void change(changed)} />, and may take{" "}
        <Seconds name="first" label="Seconds to the first event" provider={provider} onChange={change} /> s for the
        first event.
      </div>
      <More provider={provider} onChange={change} />
      {problem && <ProblemNote problem={problem} />}
      {!problem && standing.data?.problem && (
        <ProblemNote problem={standing.data.problem}>
          <Action onClick={() => void standing.refetch()}>ask again</Action>
        </ProblemNote>
      )}
      <TwoTexts
        // opened on its profile each time one is led there
        key={looked?.part === "profile" ? "profile" : "texts"}
        provider={provider}
        model={model}
        opensProfile={looked?.part === "profile"}
        onChange={change}
        onProblem={setFailure}
      />
      {(steps || provider.probe) && (
        <ProbeStrip
          report={steps ? { model, steps } : (provider.probe as NonNullable<Provider["probe"]>)}
          isRunning={steps !== undefined}
          onLook={(next) => setLooked({ part: next })}
        />
      )}
      <div className={styles.actions}>
        {steps ? (
          <Button onClick={() => stopProbe.current?.abort()}>Stop the probe</Button>
        ) : (
          <Button type="primary" disabled={model === ""} onClick={() => void probe()}>
            {provider.probe ? "Probe again" : "Probe it"}
          </Button>
        )}
        {provider.models.length > 0 && (
          <span>
            with{" "}
            <ChoiceValue
              label="Model to ask and to probe with"
              value={model}
              options={provider.models.map(({ name }) => ({ value: name, label: name }))}
              onChange={setModel}
            />
          </span>
        )}
        <span className={styles.aside}>
          {copyName === undefined ? (
            <Action onClick={() => setCopyName(`${provider.name} 2`)}>copy</Action>
          ) : (
            <>
              <Input
                size="small"
                aria-label="Name of the copy"
                autoFocus
                value={copyName}
                onChange={(event) => setCopyName(event.target.value)}
                onPressEnter={() => void copy()}
              />{" "}
              <Action onClick={() => void copy()}>copy it</Action>
            </>
          )}
          <Action onClick={() => exportProfile(provider)}>download its profile</Action>
          <ImportProfile onProfile={(profile) => void change({ profile })} onProblem={setFailure} />
          {provider.apps === 0 ? (
            <ConfirmAction
              question={`Delete ${provider.name}?`}
              says="Its key, its models and its prices go with it, for good."
              does="Delete it for good"
              onDo={remove}
            >
              delete {provider.name}
            </ConfirmAction>
          ) : (
            <span>
              {many(provider.apps, "app")} {provider.apps === 1 ? "uses" : "use"} it
            </span>
          )}
        </span>
      </div>
      <h2>Models</h2>
      <div data-part="models">
        <p className={styles.quiet} role="status">
          {standing.isFetching
            ? "Asking it for its models."
            : standing.data && !standing.data.problem && standing.data.models.length > 0
              ? `It answers in ${duration(standing.data.answeredMs ?? 0)} and lists ${many(standing.data.models.length, "model")}.`
              : standing.data?.problem
                ? `Its models could not be asked for (${wordFor(standing.data.problem.kind)}); type their names.`
                : "It lists no models; type their names."}
          {standing.data?.allowance.map(({ of, left, most, resets, isLow }) => (
            <span key={of} data-standing={isLow ? "caution" : undefined}>
              {" "}
              {isLow && "Little is left: "}
              {left}
              {most === undefined ? "" : ` of ${most}`} {of} left when it last answered
              {resets === undefined ? "" : `, anew in ${resets}`}.
            </span>
          ))}
        </p>
        <ModelTable
          provider={provider}
          standing={standing.data}
          onChange={change}
          onSwitchOn={(name) => void switchOn(name)}
        />
      </div>
    </div>
  );
}

function Seconds({
  name,
  label,
  provider,
  onChange,
}: {
  name: Exclude<keyof Provider["limits"], "loading">;
  label: string;
  provider: Provider;
  onChange: (change: ChangeProvider) => Promise<boolean>;
}) {
  return (
    <NumberValue
      label={label}
      value={provider.limits[name] / 1000}
      min={0.1}
      max={600}
      onChange={(seconds) =>
        seconds !== undefined && void onChange({ limits: { ...provider.limits, [name]: Math.round(seconds * 1000) } })
      }
    />
  );
}

/** What is rarely needed: the other limits, retries, headers, the way there, and what a stand-in does wrong. */
function More({
  provider,
  onChange,
}: {
  provider: Provider;
  onChange: (change: ChangeProvider) => Promise<boolean>;
}): ReactNode {
  const { headers } = provider;
  const setHeader = (name: string, value: string | undefined) => {
    const { [name]: _before, ...others } = headers;
    void onChange({ headers: value === undefined ? others : { ...others, [name]: value } });
  };
  const [added, setAdded] = useState("");
  return (
    <details className={styles.more}>
      <summary>more: limits, retries, recording, extra headers, proxy, certificates, signing, fault plan</summary>
      <p>
        It has <Seconds name="connect" label="Seconds to connect" provider={provider} onChange={onChange} /> s to
        connect, <Seconds name="between" label="Seconds between events" provider={provider} onChange={onChange} /> s
        between events and <Seconds name="all" label="Seconds in all" provider={provider} onChange={onChange} /> s in
        all. Where it may have to load the model first, it has{" "}
        <NumberValue
          label="Seconds to load a model"
          value={provider.limits.loading === undefined ? undefined : provider.limits.loading / 1000}
          min={0.1}
          max={3_600}
          none={{ said: "no time of its own", choose: "no time of its own" }}
          onChange={(seconds) => {
            const { loading: _loading, ...others } = provider.limits;
            const loading = seconds === undefined ? {} : { loading: Math.round(seconds * 1000) };
            void onChange({ limits: { ...others, ...loading } });
          }}
        />
        {provider.limits.loading !== undefined && " s"} for that. Before any text has come a call is made again up to{" "}
        <NumberValue
          label="Retries"
          value={provider.retries}
          min={0}
          max={5}
          onChange={(retries) => retries !== undefined && void onChange({ retries })}
        />{" "}
        times. It takes{" "}
        <NumberValue
          label="Calls at once"
          value={provider.atOnce ?? undefined}
          min={1}
          max={1_000}
          none={{ said: "any number of", choose: "no limit" }}
          onChange={(atOnce) => void onChange({ atOnce: atOnce ?? null })}
        />{" "}
        calls at once; further ones wait their turn. What it answers at the bench is{" "}
        <ChoiceValue
          label="Whether it is recorded"
          value={provider.records ? "recorded" : "not"}
          options={[
            { value: "not", label: "not recorded" },
            { value: "recorded", label: "recorded, for checks to play" },
          ]}
          onChange={(next) => void onChange({ records: next === "recorded" })}
        />
        .
      </p>
      <p>
        Every call carries{" "}
        {Object.entries(headers).map(([name, value]) => (
          <span key={name}>
            <code>{name}</code>:{" "}
            <TextValue label={`Header ${name}`} value={value} onChange={(next) => setHeader(name, next || undefined)} />
            ,{" "}
          </span>
        ))}
        {Object.keys(headers).length === 0 ? "no extra header" : "and no other header"}; add{" "}
        <Input
          size="small"
          aria-label="Extra header to add"
          placeholder="name: value, or name: $VARIABLE"
          style={{ width: 240 }}
          value={added}
          onChange={(event) => setAdded(event.target.value)}
          onPressEnter={() => {
            const [, name, value] = /^\s*([^:\s]+)\s*:\s*(.*)$/.exec(added) ?? [];
            if (name === undefined || value === undefined) return;
            setHeader(name, value);
            setAdded("");
          }}
        />
        .{" "}
        {Object.entries(provider.extras).length > 0 && (
          <>
            Beside its key it has{" "}
            {Object.entries(provider.extras).map(([name, secret], at) => (
              <span key={name}>
                {at > 0 && ", "}
                <code>{name}</code> (
                {"variable" in secret ? `${secret.variable}${secret.isSet ? "" : ", not set"}` : "sealed"})
              </span>
            ))}
            , for <code>{"<extra:…>"}</code> in its profile and headers.{" "}
          </>
        )}
        It goes through{" "}
        <TextValue
          label="Proxy"
          value={provider.proxy ?? ""}
          placeholder="the proxy of the environment, if any"
          onChange={(proxy) => void onChange({ proxy: proxy || null })}
        />
        {provider.hasProxyLogin && " with a name and a password, which are sealed"}, and trusts{" "}
        <TextValue
          label="Certificate file"
          value={provider.caFile ?? ""}
          placeholder="the usual certificates"
          onChange={(caFile) => void onChange({ caFile: caFile || null })}
        />
        . Each call is signed by{" "}
        <TextValue
          label="Command that signs"
          value={provider.signing ?? ""}
          placeholder="no command"
          onChange={(signing) => void onChange({ signing: signing.trim() || null })}
        />
        {provider.signing && ", which is given the finished request and prints headers"}.
      </p>
      <FaultSentence provider={provider.id} name={provider.name} />
    </details>
  );
}

/** Saves a profile as a file; it holds no credentials. */
function exportProfile({ name, profile }: Provider): void {
  const url = URL.createObjectURL(
    new Blob([`${JSON.stringify(profile, undefined, 2)}\n`], { type: "application/json" }),
  );
  const link = document.createElement("a");
  link.href = url;
  link.download = `${name.toLowerCase().replace(/[^\p{L}\p{N}]+/gu, "-")}.profile.json`;
  link.click();
  URL.revokeObjectURL(url);
}

function ImportProfile({
  onProfile,
  onProblem,
}: {
  onProfile: (profile: never) => void;
  onProblem: (problem: Problem) => void;
}) {
  const input = useRef<HTMLInputElement>(null);
  return (
    <>
      <Action onClick={() => input.current?.click()}>import a profile</Action>
      <input
        ref={input}
        type="file"
        accept=".json,application/json"
        hidden
        aria-label="Profile file"
        onChange={async (event) => {
          const file = event.target.files?.[0];
          if (!file) return;
          try {
            onProfile(JSON.parse(await file.text()) as never);
          } catch {
            onProblem({
              kind: "bad-request",
              detail: `${file.name} is not JSON.`,
              advice: "Choose a file that was exported from a provider.",
            });
          }
          event.target.value = "";
        }}
      />
    </>
  );
}
