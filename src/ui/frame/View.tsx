"use client";

import { usePathname } from "next/navigation";
import type { ReactNode } from "react";
import { Fallible } from "../shared/Fallible";

/** The view that is open. What goes wrong in it leaves the bar, and with it the way to the others. */
export function View({ children }: { children: ReactNode }) {
  return (
    <Fallible key={usePathname()} what="this view">
      {children}
    </Fallible>
  );
}
