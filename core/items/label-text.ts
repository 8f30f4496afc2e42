/** A lot or serial as it is kept. What nobody sees goes: marks of width, joining and direction that a paste brings along and no scanner
 *  reads, and space around it; every kind of space within is a plain one; letters are composed (Unicode NFC), so that what looks the
 *  same is. Control characters stay for whoever refuses them. */
export function labelText(text: string): string {
  return text
    .normalize('NFC')
    .replace(/\p{Cf}/gu, '')
    .replace(/\p{Zs}/gu, ' ')
    .trim();
}
