/** A texture that may lose its largest levels. */
export interface Sized {
  /** Bytes of each level. */
  level_bytes: readonly number[];
  /** The larger, the more recent. */
  lastUse: number;
}

/** The bytes that are left without the `dropped` largest levels. */
export function bytesWithout(levelBytes: readonly number[], dropped: number): number {
  return levelBytes.slice(dropped).reduce((sum, bytes) => sum + bytes, 0);
}

/** Levels down to this many bytes are left to each texture as long as others have more. */
const worthKeeping = 16 << 10;

/**
 * How many of its largest levels each texture has to leave out, so that all fit the budget: first those that were used the
 * longest time ago, down to small levels, then all down to the last level.
 */
export function levelsToDrop(textures: readonly Sized[], budget: number): number[] {
  const dropped = textures.map(() => 0);
  let total = textures.reduce((sum, { level_bytes }) => sum + bytesWithout(level_bytes, 0), 0);
  const byUse = textures.map((_, i) => i).sort((a, b) => textures[a]!.lastUse - textures[b]!.lastUse || b - a);
  for (const least of [worthKeeping, 0])
    for (const i of byUse) {
      const levels = textures[i]!.level_bytes;
      while (total > budget && dropped[i]! + 1 < levels.length && levels[dropped[i]!]! > least) total -= levels[dropped[i]!++]!;
      if (total <= budget) return dropped;
    }
  return dropped;
}
