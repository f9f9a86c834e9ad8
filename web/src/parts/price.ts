import { moneyShown } from "../api/money";

/** An amount without VAT, to the penny or to the pound. */
export const pounds = (value: number, places: 0 | 2 = 2) =>
  `${value < 0 ? "−" : ""}${moneyShown().currency}${Math.abs(value).toFixed(places)}`;

/** An amount that says that it is without VAT, and with the rate of the firm, where it set one, what it comes to. */
export function withVat(value: number): string {
  const { vat } = moneyShown();
  if (vat === null) return `${pounds(value)} without VAT`;
  const tax = Math.round(value * vat) / 100;
  return `${pounds(value)} without VAT, ${pounds(Math.round((value + tax) * 100) / 100)} with ${vat} %`;
}

/** What something costs more than what stands now, in words. */
export const priced = (cost: number) =>
  Math.abs(cost) < 0.005 ? "no extra cost" : cost > 0 ? `costs ${pounds(cost)} more` : `saves ${pounds(-cost)}`;

/** What a way out costs, or what of it the price book has no price for. */
export const pricedOr = (cost: number, unpriced: readonly string[]) =>
  unpriced.length === 0
    ? priced(cost)
    : `not priced: ${unpriced.join(", ")}${Math.abs(cost) < 0.005 ? "" : `; the rest ${priced(cost)}`}`;

/** Copper more or less, where there is enough of it to tell. */
export const coppered = (kg: number) =>
  Math.abs(kg) < 0.05 ? "" : `, ${Math.abs(kg).toFixed(1)} kg ${kg > 0 ? "more" : "less"} copper`;
