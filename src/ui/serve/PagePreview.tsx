import { useEffect, useRef, useState } from "react";
import type { App } from "@/contract/apps";
import type { Serving } from "@/contract/serving";
import { ChoiceValue } from "../shared/inline/ChoiceValue";
import { sampleNames } from "../talk/samples";
import styles from "./ServeView.module.css";

const states = [
  { value: "", label: "as visitors see it" },
  ...sampleNames.map((name) => ({ value: name as string, label: name.replace("-", " ") })),
];
const widths = [
  { value: "420", label: "wide" },
  { value: "320", label: "320 wide" },
];
/** Milliseconds after the last change of the look until it is shown. */
const patience = 400;

/** The real page, in any of its states; it is shown anew when its look changes. */
export function PagePreview({ app: { slug, name }, served }: { app: App; served: Serving }) {
  const { base, look, style, access } = served;
  const [state, setState] = useState("");
  const [width, setWidth] = useState("420");
  const frame = useRef<HTMLIFrameElement>(null);
  const shown = `${JSON.stringify(look)} ${style.version} ${access.page}`;
  const [current, setCurrent] = useState(shown);
  useEffect(() => {
    if (shown === current) return;
    const timer = setTimeout(() => setCurrent(shown), patience);
    return () => clearTimeout(timer);
  }, [shown, current]);
  const address = `${base}/talk/${slug}`;
  return (
    <>
      <div className={styles.title}>
        <h2 id="the-page">The page</h2>
        <span>
          <ChoiceValue label="State that is shown" value={state} options={states} onChange={setState} />,{" "}
          <ChoiceValue label="Width of the page" value={width} options={widths} onChange={setWidth} />
        </span>
        <a href={address} target="_blank" rel="noopener">
          open it
        </a>
      </div>
      <iframe
        key={`${current} ${state}`}
        ref={frame}
        className={styles.frame}
        style={{ width: `${width}px` }}
        title={`The page of ${name}`}
        src={state === "" ? address : `${address}?state=${state}`}
      />
    </>
  );
}
