import { differencesOf, type Texts } from "@/core/comparing/differences";

// answers each pair of texts, in order, with what differs
self.addEventListener("message", ({ data }: MessageEvent<Texts>) => self.postMessage(differencesOf(data)));
