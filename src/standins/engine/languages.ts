/** Greetings and closings in the languages that a prompt may ask for. */
export const greetings = {
  english: "Hello.",
  french: "Bonjour !",
  german: "Guten Tag.",
  spanish: "¡Buenos días!",
  italian: "Buongiorno.",
  dutch: "Goedendag.",
  portuguese: "Bom dia.",
  danish: "Goddag.",
  swedish: "God dag.",
  welsh: "Bore da.",
  latin: "Salve.",
  japanese: "こんにちは。",
} as const;
export type Language = keyof typeof greetings;

export const closings: Record<Language, string> = {
  english: "Goodbye.",
  french: "Au revoir.",
  german: "Auf Wiedersehen.",
  spanish: "¡Hasta luego!",
  italian: "Arrivederci.",
  dutch: "Tot ziens.",
  portuguese: "Até logo.",
  danish: "Farvel.",
  swedish: "Hej då.",
  welsh: "Hwyl fawr.",
  latin: "Vale.",
  japanese: "さようなら。",
};

/** A language by its English name. */
export function languageIn(name: string | undefined): Language | undefined {
  const lower = name?.toLowerCase();
  return (Object.keys(greetings) as Language[]).find((each) => each === lower);
}
