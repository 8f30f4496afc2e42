import { assertNever } from '#core/base';

/** What can go wrong between a server and a printer. */
export type PrintingError =
  { code: 'printing.nonsense' } | { code: 'printing.unknownRun' } | { code: 'printing.refused'; says: string } | { code: 'printing.away' };

/** The sentence for what went wrong with a printer, for who stands before it. */
export function printingSentence(e: PrintingError): string {
  switch (e.code) {
    case 'printing.nonsense':
      return 'What answers there does not speak as a printer does: look at its address.';
    case 'printing.unknownRun':
      return 'It knows nothing any more of what it was sent.';
    case 'printing.refused':
      return `It refused: ${e.says}`;
    case 'printing.away':
      return 'It does not answer.';
    default:
      return assertNever(e);
  }
}
