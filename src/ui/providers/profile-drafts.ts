const drafts = new Map<string, string>();

/** Profiles as they are being edited, by their provider, so that none is lost when another view is looked at. */
export const profileDrafts = {
  get: (provider: string): string | undefined => drafts.get(provider),
  set(provider: string, text: string | undefined): void {
    if (text === undefined) drafts.delete(provider);
    else drafts.set(provider, text);
  },
};
