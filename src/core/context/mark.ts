/** A short mark of a text: FNV-1a, 32 bits. Two texts may have the same; nothing but a hint depends on it. */
export function markOf(text: string): string {
  let hash = 0x811c9dc5;
  for (let at = 0; at < text.length; at += 1) hash = Math.imul(hash ^ text.charCodeAt(at), 0x01000193);
  return (hash >>> 0).toString(16);
}
