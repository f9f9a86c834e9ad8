// The longest side of a photo: enough to read a terminal by.
const LONGEST = 1600;
const MOST = 590_000;

/** A picture as a small JPEG that can travel with an entry. Null where it is none. */
export async function small(file: File): Promise<string | null> {
  const bitmap = await createImageBitmap(file).catch(() => null);
  if (!bitmap) return null;
  for (const [side, quality] of [
    [LONGEST, 0.75],
    [LONGEST, 0.6],
    [1280, 0.65],
    [1000, 0.7],
    [800, 0.7],
    [600, 0.6],
    [400, 0.5],
  ] as const) {
    const scale = Math.min(1, side / Math.max(bitmap.width, bitmap.height));
    const canvas = document.createElement("canvas");
    canvas.width = Math.max(1, Math.round(bitmap.width * scale));
    canvas.height = Math.max(1, Math.round(bitmap.height * scale));
    canvas.getContext("2d")?.drawImage(bitmap, 0, 0, canvas.width, canvas.height);
    const found = canvas.toDataURL("image/jpeg", quality);
    if (found.length <= MOST) return found;
  }
  return null;
}
