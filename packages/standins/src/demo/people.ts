/** Everyone in the demo. All of them are made up; addresses end in `.example`. */
import type { Habit } from '../campus/habits.ts';

/** `first last habit`, a line a student. */
const NAV = `
Imani Okoro fading|Tomasz Reyes returning|Lena Halvorsen fading|Priya Castellan steady|Wren Abbot returning
Kofi Marsh fading|Sunniva Dahl struggling|Mateus Oyelaran steady|Hana Petrov returning|Anneliese Fontaine excelling
Bo Lindqvist nightOwl|Chidi Aldana steady|Dilnoza Karimova steady|Emeka Vance nightOwl|Farah Nasrallah excelling
Gustavo Pinheiro steady|Hye-jin Seo steady|Ingrid Solberg struggling|Javier Montenegro fading|Keala Kahananui steady
Lukas Brandt nightOwl|Mirela Ionescu steady|Noor Al-Rashid excelling|Oluwaseun Adebayo returning|Paloma Estrada steady
Quentin Marchetti nightOwl|Rosalind Achterberg steady|Samir Chowdhury struggling|Talia Rosenfeld steady|Uchenna Nwosu nightOwl
Viktoria Szabo steady|Wanjiru Kamau excelling|Xiulan Zhao nightOwl|Yusuf Demir fading|Zofia Wrona steady
Aroha Ngata nightOwl|Benedikt Aurelio Montgomery-Featherstonehaugh steady|Caoimhe Brennan returning|Desta Tekle fading|Eliza Thornquist struggling
Finn Makoa nightOwl|Giulia Ferrante excelling`;

const MET = `
Amara Diallo steady|Birger Nystrom fading|Carmen Villareal steady|Devika Raman excelling|Elio Baptiste nightOwl
Freya Winterbourne returning|Goran Petkovic steady|Halima Osei struggling|Ilan Mizrahi steady|Jorunn Aasen nightOwl
Kamala Venkatesan excelling|Leopold Asante fading|Maren Holm steady|Nikhil Banerjee nightOwl|Odile Charbonneau steady
Pilar Echeverria returning|Rafi Haddad steady|Siobhan Kell struggling|Teodor Marinov steady|Una Bergstrand nightOwl
Vusi Dlamini fading|Willa Sandoval steady|Yael Amsalem excelling|Zuri Mbeki steady|Anders Quist returning
Bronwen Pryce nightOwl|Cyrus Farahani struggling|Dagny Rolfsen steady`;

export interface DemoStudent {
  readonly id: string;
  readonly firstName: string;
  readonly lastName: string;
  readonly email: string;
  readonly habit: Habit;
}

function read(lines: string, prefix: string): DemoStudent[] {
  return lines
    .trim()
    .split(/[|\n]/)
    .map((line, i) => {
      const words = line.trim().split(' ');
      const habit = words.pop() as Habit;
      const [firstName = '', ...last] = words;
      const lastName = last.join(' ');
      const local = `${firstName}.${last.at(-1)}`.toLowerCase().replace(/[^a-z.-]/g, '');
      return { id: `${prefix}${i + 1}`, firstName, lastName, email: `${local}@saltmarsh.example`, habit };
    });
}

/** Enrolled for the spring. */
const SPRING = `
Abel Norling steady|Beatriz Quiroga steady|Caspian Wren fading|Dalia Haidari steady|Edvin Strand nightOwl
Farah Jabbour excelling|Giulia Rossetti steady|Hassan Okonjo struggling|Ines Vidal steady|Joaquin Herrera steady
Katya Morozova returning|Liam Featherstone steady|Mirela Dobre excelling|Nkechi Adebayo steady|Orla Kinsella steady
Pavel Horak nightOwl|Rania Sabry steady|Stellan Ekdahl fading|Tamsin Boyle steady|Ulrik Dahlgaard steady
Valeria Conti steady|Wendell Ashby struggling|Xiomara Delgado steady|Yusuf Karaca steady`;

/** Of a class that Zest Bell does not know yet. */
const KNOTS = `
Alder Finch steady|Brisa Molina steady|Cormac Daly fading|Delphine Aubert excelling|Efua Quaye steady|Fenn Larkspur nightOwl
Greta Halloran steady|Hamza Yildirim struggling|Isolde Brandvold steady|Jomo Kariuki excelling|Kestrel Vane steady|Livia Moretti returning`;

export const KNOTS_STUDENTS = read(KNOTS, 'k');
export const NAV_STUDENTS = read(NAV, 'n');
export const SPRING_STUDENTS = read(SPRING, 's');
export const MET_STUDENTS = read(MET, 'm');

export const INSTRUCTOR = {
  id: 'ostrander',
  firstName: 'Runa',
  lastName: 'Ostrander',
  email: 'r.ostrander@saltmarsh.example',
} as const;

export const ASSISTANT = {
  id: 'benedek',
  firstName: 'Ilya',
  lastName: 'Benedek',
  email: 'i.benedek@saltmarsh.example',
} as const;

export const ADVISORS = [
  { kind: 'advisor', name: 'B. Lund', email: 'b.lund@saltmarsh.example' },
  { kind: 'advisor', name: 'M. Tavares', email: 'm.tavares@saltmarsh.example' },
] as const;
