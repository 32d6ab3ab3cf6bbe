import { Tooltip } from "antd";
import type { ReactElement, ReactNode } from "react";

/** Says more of something where it is pointed at or has the focus. What can't have the focus by itself gets it for this. */
export function Tip({ says, children }: { says: ReactNode; children: string | ReactElement }) {
  return (
    <Tooltip title={says} trigger={["hover", "focus"]} mouseEnterDelay={0.3} classNames={{ root: "tip" }}>
      {typeof children === "string" ? (
        // biome-ignore lint/a11y/noNoninteractiveTabindex: what says more must be reachable by key
        <span tabIndex={0}>{children}</span>
      ) : (
        children
      )}
    </Tooltip>
  );
}
