/** The application identifiers of the GS1 system: identifier or range, the parts of its data, a name. `n5` after an identifier stands for
 *  its fourth digit, 0 to 5: the number of decimals. Parts: `N6` six digits, `N..8` up to eight, `X..20` up to twenty characters of set
 *  82, `Y` set 39, `Z` set 64; `?` may be missing. After a colon what a part must be: `csum` ends in its check digit; `yymmdd` a day,
 *  `yymmd0` one whose day may be 00; `yyyymmdd`; `hhmi`, `hh`, `mi`, `ss` a time; `yesno` 1 or 0; `zero`, `nonzero`; `pieceoftotal` the
 *  second pair not below the first.
 *  Source: GS1 General Specifications, section 3.2, in the notation of the GS1 Barcode Syntax Dictionary. A test holds it against that
 *          dictionary. */
const TABLE = `
00 N18:csum sscc
01 N14:csum gtin
02 N14:csum content
03 N14:csum madeToOrderGtin
10 X..20 lot
11 N6:yymmd0 made
12 N6:yymmd0 due
13 N6:yymmd0 packed
15 N6:yymmd0 bestBefore
16 N6:yymmd0 sellBy
17 N6:yymmd0 expires
20 N2 variant
21 X..20 serial
22 X..20 consumerVariant
235 X..28 thirdPartySerial
240-241 X..30 additionalId
242 N..6 madeToOrderVariation
243 X..20 packagingComponent
250 X..30 secondarySerial
251 X..30 sourceReference
253 N13:csum X..17? documentType
254 X..20 extensionOfGln
255 N13:csum N..12? coupon
30 N..8 count
310-316n5 N6 measure
320-337n5 N6 measure
340-357n5 N6 measure
360-369n5 N6 measure
37 N..8 contentCount
390n9 N..15 amount
391n9 N3 N..15 amountIso
392n9 N..15 priceOfVariable
393n9 N3 N..15 priceOfVariableIso
394n3 N4 couponPercent
395n5 N6 pricePerUnit
400 X..30 customerOrder
401 X..30 consignment
402 N17:csum shipmentNumber
403 X..30 routing
410-417 N13:csum location
420 X..20 postalCode
421 N3 X..9 postalCodeIso
422 N3 origin
423 N3 N3? N3? N3? N3? initialProcessing
424 N3 processing
425 N3 N3? N3? N3? N3? disassembly
426 N3 fullProcessing
427 X..3 originSubdivision
4300-4301 X..35 shipTo
4302-4306 X..70 shipTo
4307 X2 shipToCountry
4308 X..30 shipToPhone
4309 N10 N10 shipToPlace
4310-4311 X..35 returnTo
4312-4316 X..70 returnTo
4317 X2 returnToCountry
4318 X..20 returnToPostalCode
4319 X..30 returnToPhone
4320 X..35 serviceDescription
4321-4323 N1:yesno flag
4324-4325 N6:yymmd0 N4:hhmi deliveryTime
4326 N6:yymmdd release
4330-4333 N6 X1? temperature
7001 N13 natoStock
7002 X..30 meatCut
7003 N6:yymmdd N4:hhmi expiryTime
7004 N..4 potency
7005 X..12 catchArea
7006 N6:yymmdd firstFreeze
7007 N6:yymmdd N6?:yymmdd harvest
7008 X..3 species
7009 X..10 gear
7010 X..2 productionMethod
7011 N6:yymmdd N4?:hhmi testBy
7020 X..20 refurbishLot
7021 X..20 functionalStatus
7022 X..20 revision
7023 X..30 assemblyId
7030-7039 N3 X..27 processor
7040 N1 X1 X1 X1 uic
7041 X..4 cargoUnit
710-717 X..20 reimbursement
7230-7239 X2 X..28 certification
7240 X..20 protocol
7241 N2 aidcMedia
7242 X..25 versionControl
7250 N8:yyyymmdd birthDate
7251 N8:yyyymmdd N4:hhmi birthTime
7252 N1 sex
7253-7254 X..40 name
7255 X..10 name
7256 X..90 name
7257 X..70 nameSuffix
7258 X3 babySequence
7259 X..40 babyName
8001 N4:nonzero N5:nonzero N3:nonzero N1 N1 rollDimensions
8002 X..20 cellphone
8003 N1:zero N13:csum X..16? returnableAsset
8004 X..30 asset
8005 N6 unitPrice
8006 N14:csum N4:pieceoftotal pieceOfTradeItem
8007 X..34 iban
8008 N6:yymmdd N2:hh N2?:mi N2?:ss madeAt
8009 X..50 sensor
8010 Y..30 componentPart
8011 N..12 componentSerial
8012 X..20 software
8013 X..25 model
8014 X..25 deviceModel
8017 N18:csum serviceProvider
8018 N18:csum serviceRecipient
8019 N..10 serviceInstance
8020 X..25 paymentSlip
8026 N14:csum N4:pieceoftotal pieceContained
8030 Z..90 signature
8040-8041 N15 localUse
8042 N32 localUse
8043 N18 N..2? localUse
8110 X..70 couponNa
8111 N4 loyaltyPoints
8112 X..70 couponPaperless
8200 X..70 extendedPackaging
90 X..30 agreed
91-99 X..90 internal
`;

export type AiCheck =
  'csum' | 'yymmdd' | 'yymmd0' | 'yyyymmdd' | 'hhmi' | 'hh' | 'mi' | 'ss' | 'yesno' | 'zero' | 'nonzero' | 'pieceoftotal';
export type AiPart = {
  readonly set: 'N' | 'X' | 'Y' | 'Z';
  readonly min: number;
  readonly max: number;
  readonly optional: boolean;
  readonly checks: readonly AiCheck[];
};
export type AiRule = {
  readonly name: string;
  readonly parts: readonly AiPart[];
  readonly min: number;
  readonly max: number;
  /** Whether the last digit of the identifier says how many decimals the value has. */
  readonly decimals: boolean;
};

function readPart(text: string): AiPart {
  const [, set, upTo, length, optional = '', checks = ''] = /^([NXYZ])(\.\.)?(\d+)(\??)((?::\w+)*)$/.exec(text) ?? [];
  const max = Number(length);
  return {
    set: set as AiPart['set'],
    min: upTo ? 1 : max,
    max,
    optional: optional !== '',
    checks: checks.split(':').filter(Boolean) as AiCheck[],
  };
}

function readTable(): ReadonlyMap<string, AiRule> {
  const rules = new Map<string, AiRule>();
  for (const line of TABLE.trim().split('\n')) {
    const words = line.split(' ');
    const parts = words.slice(1, -1).map(readPart);
    const [range = '', decimals] = (words[0] ?? '').split('n');
    const rule: AiRule = {
      name: words.at(-1) ?? '',
      parts,
      min: parts.reduce((sum, p) => sum + (p.optional ? 0 : p.min), 0),
      max: parts.reduce((sum, p) => sum + p.max, 0),
      decimals: decimals !== undefined,
    };
    const [from = '', to = from] = range.split('-');
    for (let ai = Number(from); ai <= Number(to); ai += 1) {
      const text = String(ai).padStart(from.length, '0');
      if (decimals === undefined) rules.set(text, rule);
      else for (let n = 0; n <= Number(decimals); n += 1) rules.set(`${text}${n}`, rule);
    }
  }
  return rules;
}

/** Every identifier with its rule. */
export const GS1_TABLE = readTable();

// How long an identifier is follows from its first two digits, but for a few families that are told apart by trying.
const LENGTHS = new Map<string, readonly number[]>(
  [...new Set([...GS1_TABLE.keys()].map((ai) => ai.slice(0, 2)))].map((prefix) => [
    prefix,
    [...new Set([...GS1_TABLE.keys()].filter((ai) => ai.startsWith(prefix)).map((ai) => ai.length))].sort(),
  ]),
);

/** The identifier at the beginning of a text, or null. */
export function aiAt(text: string, at: number): string | null {
  for (const length of LENGTHS.get(text.slice(at, at + 2)) ?? []) {
    const ai = text.slice(at, at + length);
    if (GS1_TABLE.has(ai)) return ai;
  }
  return null;
}

/** Whether an element needs no separator after it, because its length was fixed for good.
 *  Source: GS1 General Specifications, figure 7.8.5-2. */
export function isPredefined(ai: string): boolean {
  return /^(0[0-4]|1[1-9]|20|3[1-6]|41)/.test(ai);
}
