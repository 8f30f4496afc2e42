export { ZONE_PURPOSES, zoneDefaults, type ZonePurpose } from './zones.ts';
export { splitAddress, addressOrder, type AddressParts } from './address.ts';
export { checkBinRules, type BinRules, type BinContent, type RuleBreak } from './rules.ts';
export { placesSentence, type PlacesError } from './errors.ts';
