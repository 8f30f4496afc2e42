import { assertNever } from '#core/base';

/** Why something that another program sent of an order is not taken in. */
export type ChannelError =
  | { code: 'channel.badPaper'; name: string; says: string }
  | { code: 'channel.paperFaults'; name: string; faults: readonly string[]; more: number }
  | { code: 'channel.noSuchOrder'; reference: string; customer: string }
  | { code: 'channel.unknownPaper'; id: number }
  | { code: 'channel.notOpen'; state: string };

/** The sentence for an error about papers of orders. */
export function channelSentence(e: ChannelError): string {
  switch (e.code) {
    case 'channel.badPaper':
      return `${e.name} cannot be taken in: ${e.says}.`;
    case 'channel.paperFaults':
      return `${e.name} is not taken in. ${e.faults.join(' ')}${e.more > e.faults.length ? ` And ${e.more - e.faults.length} more.` : ''}`;
    case 'channel.noSuchOrder':
      return `There is no order ${e.reference} of ${e.customer}.`;
    case 'channel.unknownPaper':
      return `There is no paper ${e.id}.`;
    case 'channel.notOpen':
      return `That paper is ${e.state} already.`;
    default:
      return assertNever(e);
  }
}
