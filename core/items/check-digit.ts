/** The check digit of a GS1 key, for the digits without it.
 *  Shape:  7, 11, 12, 13 or 17 digits (EAN-8, UPC-A, EAN-13, GTIN-14, SSCC) in; one digit out.
 *  Source: GS1 General Specifications, section 7.9.1 (weights 3 and 1 from the right). */
export function checkDigit(digits: string): number {
  let sum = 0;
  for (let i = 0; i < digits.length; i += 1) {
    const weight = (digits.length - i) % 2 === 1 ? 3 : 1;
    sum += Number(digits[i]) * weight;
  }
  return (10 - (sum % 10)) % 10;
}

/** Whether the last digit is the check digit of those before it. */
export function hasValidCheckDigit(code: string): boolean {
  return /^\d{2,}$/.test(code) && checkDigit(code.slice(0, -1)) === Number(code.at(-1));
}

/** The digits with their check digit appended. */
export function withCheckDigit(digits: string): string {
  return digits + String(checkDigit(digits));
}

/** Whether a text is a serial shipping container code: 18 digits, the last of them right.
 *  Source: GS1 General Specifications, section 2.2.1. */
export const isSscc = (text: string): boolean => /^\d{18}$/.test(text) && hasValidCheckDigit(text);
