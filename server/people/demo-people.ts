/** The demo's made-up people. They exist only where the demo was loaded; the sign-in screen shows them there. */
export const DEMO_PEOPLE = [
  { name: 'Maren Oake', role: 'lead', badge: 'BADGE-7101', pin: '7101', password: 'comb-and-frame' },
  { name: 'Tobin Sallow', role: 'hand', badge: 'BADGE-7102', pin: '7102', password: 'comb-and-frame' },
  { name: 'Ines Farrow', role: 'hand', badge: 'BADGE-7103', pin: '7103', password: 'comb-and-frame' },
  { name: 'Jory Penhale', role: 'hand', badge: 'BADGE-7104', pin: '7104', password: 'comb-and-frame' },
  { name: 'Odile Wrack', role: 'office', badge: 'BADGE-7105', pin: '7105', password: 'comb-and-frame' },
] as const;
