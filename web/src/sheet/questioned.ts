/** A number that is questioned: its figure, line and column. */
export interface Questioned {
  figure: string;
  line: number;
  column: number;
}
