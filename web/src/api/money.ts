/** How the firm shows amounts: told with who is signed in, before anything is shown. */
let shown: { currency: string; vat: number | null } = { currency: "£", vat: null };

export function showMoney(currency: string | undefined, vat: number | null | undefined) {
  shown = { currency: currency || "£", vat: vat ?? null };
}
export const moneyShown = () => shown;
