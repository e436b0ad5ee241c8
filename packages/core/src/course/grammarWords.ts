/**
 * The words of the grammar of typed sentences (`saying/`), where a name may stand beside them. A test holds this list against what the
 * parsers look for.
 */
export const GRAMMAR_WORDS: ReadonlySet<string> = new Set(
  `
  a about above absence absences absent active after ago alert all also among and anything apart apr april are as
  assignment assignments assistant assistants at attend attended aug august average away back be been before beginning
  begins below beside between both but by came cc change changed check class come comparison complete completed
  completion copy course daily date day days dec december did distance do does done dropped due during each eight
  eighteen either eleven email ends enrolled enrollment ever every exactly except excluding feb february fell fewer
  fifteen finish finished first fit five for four fourteen fourth fri friday fridays from gap get gone got grade graded
  greater had half hand handed has have having here high higher hour hourly hours if in inactive ins instructor
  instructors is it item items jan january jul july jun june just known last late latest least less logged longer
  longest look low lower mar march mark match may me mean message missed missing mon monday mondays month monthly more
  most never nine nineteen no none not nothing notify nov november nudge number observer observers oct october of on
  once one only open opened opens or other over overall part participation past per percent please point points post
  posted posts practice practiced priority read record remind reminder replies reply row sat saturday saturdays score
  scored scores second section sections seen sep sept september seven seventeen share sign signed since six sixteen
  something starting starts stayed step steps student students submission submissions submit submitted sun sunday
  sundays taken tell ten term than thanks that the their them then they third thirteen this three through thu thur thurs
  thursday thursdays till time times to today tomorrow tue tues tuesday tuesdays turn turned twelve twenty twice two
  under unless until up viewed visit visited visits wait waited waiting was wed wednesday wednesdays week weekday
  weekdays weekend weekends weekly weeks were when where which who whose with within without work yet zero
  `
    .trim()
    .split(/\s+/),
);
