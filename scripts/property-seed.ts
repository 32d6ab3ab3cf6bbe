import fc from "fast-check";

/** Property tests draw the same examples at every run; `FINCH_SEED=<a number>` draws others. */
fc.configureGlobal({ seed: Number(process.env.FINCH_SEED ?? 4600) });
