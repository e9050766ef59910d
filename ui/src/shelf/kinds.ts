// How kinds are shown: the colour family and code of the role they take.
export const kinds = [
  'kick',
  'snare',
  'rim',
  'clap',
  'closed hat',
  'pedal hat',
  'open hat',
  'low tom',
  'mid tom',
  'high tom',
  'crash',
  'ride',
  'cymbal',
  'shaker',
  'tambourine',
  'cowbell',
  'percussion',
  'loop',
  'other',
];

const looks: Record<string, [family: string, code: string]> = {
  kick: ['kick', 'KI'],
  snare: ['snare', 'SN'],
  rim: ['clap', 'RM'],
  clap: ['clap', 'CL'],
  'closed hat': ['hat', 'HC'],
  'pedal hat': ['hat', 'HP'],
  'open hat': ['hat', 'HO'],
  'low tom': ['tom', 'TL'],
  'mid tom': ['tom', 'TM'],
  'high tom': ['tom', 'TH'],
  crash: ['cym', 'CR'],
  ride: ['cym', 'RD'],
  cymbal: ['cym', 'CY'],
  shaker: ['perc', 'SH'],
  tambourine: ['perc', 'TB'],
  cowbell: ['perc', 'CB'],
  percussion: ['perc', 'PC'],
  loop: ['other', 'LP'],
};

export const familyOf = (kind: string) => looks[kind]?.[0] ?? 'other';
export const codeOf = (kind: string) => looks[kind]?.[1] ?? 'OT';
