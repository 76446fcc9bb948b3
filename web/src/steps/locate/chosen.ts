/** A station counts from 1; those left out come behind the placed ones. */
export interface Chosen {
  station: number;
  feature: string;
}
