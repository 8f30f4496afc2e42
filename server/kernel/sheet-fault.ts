/** Why a file cannot be read as a table; the message is a sentence for the person who sent it. */
export class SheetFault extends Error {}
