/** Made-up names: trees and birds, in an order that reveals nothing about the people. */
const FIRST = [
  ...['Alder', 'Aspen', 'Birch', 'Cedar', 'Elm', 'Fir', 'Hazel', 'Holly', 'Juniper', 'Larch', 'Laurel', 'Linden'],
  ...['Maple', 'Myrtle', 'Oak', 'Olive', 'Pine', 'Rowan', 'Spruce', 'Willow', 'Yew'],
];
const LAST = [
  ...['Avocet', 'Bunting', 'Dunlin', 'Finch', 'Heron', 'Ibis', 'Kestrel', 'Lark', 'Linnet', 'Martin', 'Merlin'],
  ...['Osprey', 'Petrel', 'Pipit', 'Plover', 'Quail', 'Redstart', 'Sparrow', 'Swift', 'Teal', 'Wren'],
];

/** Each place has its own pair; after all pairs, with a number. */
export function madeUpName(place: number): { readonly firstName: string; readonly lastName: string } {
  const pairs = FIRST.length * LAST.length;
  const round = Math.floor(place / pairs);
  const last = LAST[Math.floor(place / FIRST.length) % LAST.length]!;
  return { firstName: FIRST[place % FIRST.length]!, lastName: round === 0 ? last : `${last} ${round + 1}` };
}
