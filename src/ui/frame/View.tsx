"use client";

import { usePathname } from "next/navigation";
import type { ReactNode } from "react";
import { Fallible } from "../shared/Fallible";
import { useIsHydrated } from "../shared/use-is-hydrated";

/**
 * The view that is open, once it hears what is done on it: nothing that is typed early is lost. What goes wrong in it
 * leaves the bar, and with it the way to the others.
 */
export function View({ children }: { children: ReactNode }) {
  return (
    <Fallible key={usePathname()} what="this view">
      {useIsHydrated() && children}
    </Fallible>
  );
}
