"use client";

import Link from "next/link";
import { useParams, usePathname } from "next/navigation";
import { useApp } from "../shared/queries";
import { Tip } from "../shared/Tip";
import { useIsHydrated } from "../shared/use-is-hydrated";
import styles from "./Bar.module.css";
import { Heard } from "./Heard";
import { JobsInBar } from "./JobsInBar";
import { useTheme } from "./Providers";

/** The views of an app, as they stand in the bar; each has its page under its name. */
const viewsOfApp = ["Build", "Compare", "Checks", "History", "Serve"];

/** The bar across the top: the name, the app that is open with its views, and what is beyond apps. */
export function Bar() {
  const { slug } = useParams<{ slug?: string }>();
  const path = usePathname();
  const { theme, toggle } = useTheme();
  return (
    <header className={styles.bar}>
      <Link href="/" className={styles.name}>
        Unruly Finch
      </Link>
      {slug && <OpenApp slug={slug} path={path} />}
      <Heard />
      <JobsInBar />
      <nav className={styles.right} aria-label="Bench">
        <View href="/apps" path={path} exact>
          Apps
        </View>
        <View href="/providers" path={path}>
          Providers
        </View>
        <button
          type="button"
          disabled={!useIsHydrated()}
          onClick={toggle}
          aria-label={`Theme: ${theme}. Change to ${theme === "light" ? "dark" : "light"}.`}
        >
          {theme === "light" ? "Dark" : "Light"}
        </button>
      </nav>
    </header>
  );
}

function OpenApp({ slug, path }: { slug: string; path: string }) {
  const { data: app } = useApp(slug);
  return (
    <>
      <div className={styles.app}>
        <Tip says={app?.name ?? slug}>{app?.name ?? slug}</Tip>
        {app && (
          <small>
            {app.draftRevision === null ? `draft after revision ${app.latest.number}` : `revision ${app.draftRevision}`}{" "}
            · live: {app.liveRevision}
          </small>
        )}
      </div>
      <nav className={styles.views} aria-label={`Views of ${app?.name ?? slug}`}>
        {viewsOfApp.map((name) => (
          <View key={name} href={`/apps/${slug}/${name.toLowerCase()}`} path={path}>
            {name}
          </View>
        ))}
      </nav>
    </>
  );
}

function View({
  href,
  path,
  exact = false,
  children,
}: {
  href: string;
  path: string;
  exact?: boolean;
  children: string;
}) {
  const isOpen = exact ? path === href : path.startsWith(href);
  return (
    <Link href={href} aria-current={isOpen ? "page" : undefined}>
      {children}
    </Link>
  );
}
