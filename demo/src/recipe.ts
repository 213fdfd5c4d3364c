/** The recipe of the river stage station, and the wish sheets that came in for it. */

const number = (
  name: string,
  label: string,
  unit: string,
  [least, most]: readonly [number, number],
  otherwise: string,
) => ({
  ...{ name, label, kind: 'number', unit, least, most, choices: [], otherwise },
});
const always = { least: null, most: null, unit: '' };

const unless = (name: string, item: string, when: string) => ({ name, when, then: { do: 'share', item } });

export const RIVER_RECIPE = {
  format: 'stem-trace recipe',
  formatVersion: 1,
  of: 'FM-1000',
  wishes: [
    number('mast', 'Mast height', 'm', [3, 4], '3'),
    number('arm', 'Arm length', 'm', [1.4, 2], '1.4'),
    number('panel', 'Panel size', 'W', [20, 50], '20'),
    { name: 'heater', label: 'Heater', kind: 'yes/no', ...always, choices: [], otherwise: 'no' },
    {
      name: 'colour',
      label: 'Colour',
      kind: 'choice',
      ...always,
      choices: ['galvanised', 'moss green', 'signal white'],
      otherwise: 'galvanised',
    },
    { name: 'river', label: 'River', kind: 'text', ...always, choices: [], otherwise: '' },
  ],
  rules: [
    {
      name: 'Longer arm',
      when: 'arm > 1.4 m',
      then: { do: 'swap', item: 'FM-2200', to: 'FM-22{arm to dm}' },
    },
    unless('Arm as it is', 'FM-2200', 'arm <= 1.4 m'),
    { name: 'Taller mast', when: 'mast > 3 m', then: { do: 'swap', item: 'FM-2100', to: 'FM-2140' } },
    unless('Mast as it is', 'FM-2100', 'mast <= 3 m'),
    { name: 'Larger panel', when: 'panel > 20 W', then: { do: 'swap', item: 'FM-2400', to: 'FM-2450' } },
    unless('Panel as it is', 'FM-2400', 'panel <= 20 W'),
    {
      name: 'Heater at the head',
      when: 'heater',
      then: { do: 'add', item: 'FM-2600', in: 'FM-1000', like: 'FM-2200', at: [110, 0, 30] },
    },
    unless('Enclosure', 'FM-2300', ''),
    unless('Battery', 'FM-2500', ''),
    {
      name: 'Number',
      when: '',
      then: {
        do: 'number',
        item: '',
        pattern: 'FS-{mast to dm}-{arm to dm}-{panel to W}{heater ? "H" : ""} {river}',
      },
    },
    { name: 'Name', when: '', then: { do: 'name', item: '', pattern: 'River stage station {river}' } },
    {
      name: 'Paint',
      when: 'colour != "galvanised"',
      then: { do: 'property', item: '', property: 'finish', value: '"Painted"' },
    },
    {
      name: 'Paint on the drawings',
      when: 'colour != "galvanised"',
      then: { do: 'title block', item: '', field: 'FINISH', pattern: 'Painted {colour}' },
    },
  ],
  names: [
    {
      kind: 'put',
      of: 'numbers',
      at: 'end',
      text: '-{mast to dm}{arm to dm}{panel to W}{heater ? "H" : ""}',
    },
  ],
  place: '/Fenmark/Stations to order/{river}',
  examples: [
    {
      name: 'as it is',
      wishes: { river: 'Ash Beck' },
      rules: ['Arm as it is', 'Mast as it is', 'Panel as it is', 'Enclosure', 'Battery', 'Number', 'Name'],
    },
    {
      name: 'far out and warm',
      wishes: { river: 'Lune', arm: '2 m', heater: 'yes', colour: 'moss green' },
      rules: [
        'Longer arm',
        'Mast as it is',
        'Panel as it is',
        'Heater at the head',
        'Enclosure',
        'Battery',
        'Number',
        'Name',
        'Paint',
        'Paint on the drawings',
      ],
    },
  ],
};

export const RIVER_SHEETS: readonly {
  readonly for: string;
  readonly wishes: Readonly<Record<string, string>>;
}[] = [
  { for: 'Water authority Lower Marsh, lot 1', wishes: { river: 'Ash Beck', arm: '1.6 m' } },
  {
    for: 'Water authority Lower Marsh, lot 2',
    wishes: { river: 'Harrow Brook', arm: '1600 mm', mast: '4 m' },
  },
  { for: 'Hydropower Kettle Weir', wishes: { river: 'Kettle', arm: '2 m', heater: 'yes' } },
  {
    for: 'Hydropower Kettle Weir',
    wishes: { river: 'Upper Kettle', arm: '2 m', mast: '4 m', heater: 'yes', colour: 'moss green' },
  },
  { for: 'Valley district', wishes: { river: 'Sill', panel: '50 W' } },
  {
    for: 'Valley district',
    wishes: { river: 'Little Sill', panel: '50 W', mast: '4 m', colour: 'signal white' },
  },
];
