import { describe, expect, it } from "vitest";
import type { Device, Rules } from "../../api/types";
import { EMPTY_CABLE, EMPTY_DEVICE } from "../../sync/changes";
import { cableOptions, deviceOptions, loadText, otherThan, readLoad } from "./reading";

const rules: Rules = {
  id: "bs7671",
  title: "",
  edition: "",
  example: "",
  places: [],
  laid: [],
  fields: [],
  kinds: [
    { id: "lighting", title: "lights", said: ["lights", "downlights", "lamp", "leds"] },
    { id: "sockets", title: "sockets", said: ["sockets", "socket"] },
    { id: "shower", title: "shower", said: ["shower"] },
    { id: "cooking", title: "cooker", said: ["cooker", "oven", "hob"] },
    { id: "floor_heating", title: "underfloor heating", said: ["underfloor heating", "heat mat"] },
    { id: "heat_pump", title: "heat pump", said: ["heat pump"] },
    { id: "water_heater", title: "water heater", said: ["immersion", "water heater"] },
    { id: "heating", title: "heater", said: ["heater", "heating", "towel rail"] },
    { id: "ev", title: "EV charger", said: ["EV charger", "charger"] },
    { id: "motor", title: "motor", said: ["motor", "pump", "winch"] },
  ],
  devices: [
    { id: "BS88-2", title: "BS 88-2 gG fuse", trips: "fuse", ratings: [16, 20, 32, 63] },
    { id: "mccb", title: "MCCB", trips: "adjustable", ratings: [] },
  ],
  ratings: [3, 6, 10, 16, 20, 25, 32, 40, 50, 63],
  families: [
    {
      id: "flat",
      title: "flat twin & earth",
      cpc: "in_cable",
      sizes: [1, 1.5, 2.5, 4, 6, 10],
      pairs: [{ line: 10, cpc: 4 }],
      methods: [],
    },
    { id: "single", title: "singles, 70 °C", cpc: "single", sizes: [1.5, 10, 16], pairs: [], methods: [] },
  ],
};

describe("a load as it is typed", () => {
  it.each([
    ["9.2 kW shower", { amount: 9200, basis: "W", kind: "shower", name: "shower", quantity: 1, pf: 1 }],
    ["6 x 8 W lights pf 0.9", { amount: 8, basis: "W", kind: "lighting", quantity: 6, pf: 0.9 }],
    ["38A", { amount: 38, basis: "A", kind: "other", name: "load" }],
    ["sockets", { amount: null, basis: "In", kind: "sockets" }],
    ["3 kW immersion", { amount: 3000, kind: "water_heater" }],
    ["7,4 kW EV charger", { amount: 7400, kind: "ev" }],
    ["2 kW towel rail", { amount: 2000, kind: "heating" }],
    ["0.55 kW winch motor", { amount: 550, kind: "motor" }],
  ])("%s", (text, meant) => {
    expect(readLoad(text, rules.kinds)).toMatchObject(meant);
  });

  it("keeps the volts of a label with its watts, and takes them away where they are gone", () => {
    expect(readLoad("9.5 kW at 240 V shower", rules.kinds)).toMatchObject({
      amount: 9500,
      rated_volts: 240,
      name: "shower",
    });
    expect(readLoad("9.5 kW shower", rules.kinds)).toMatchObject({ rated_volts: null });
    expect(readLoad("2 x 1500 W at 230,5 volts heater", rules.kinds)).toMatchObject({
      quantity: 2,
      rated_volts: 230.5,
    });
  });

  it("asks rather than guess a unit", () => {
    expect(readLoad("9200", rules.kinds)).toBeNull();
    expect(readLoad("  ", rules.kinds)).toBeNull();
  });

  it("reads back what it wrote", () => {
    for (const text of ["9.2 kW shower", "6 × 8 W lights pf 0.9", "38 A load", "sockets", "9.5 kW at 240 V shower"]) {
      const load = readLoad(text, rules.kinds);
      expect(load && loadText(load)).toBe(text);
    }
  });
});

describe("a device as it is typed", () => {
  const first = (text: string, now: Device = EMPTY_DEVICE, like?: Device) => deviceOptions(rules, now, like)(text)[0];

  it.each([
    ["b32", { kind: "rcbo", curve: "B", rating: 32 }],
    ["40 c mcb", { kind: "mcb", curve: "C", rating: 40 }],
    ["D16 MCB 10kA", { kind: "mcb", curve: "D", rating: 16, icn: 10000 }],
    ["b6 rcbo 30mA", { kind: "rcbo", curve: "B", rating: 6, idn: 0.03 }],
    ["20 A type B RCBO", { kind: "rcbo", curve: "B", rating: 20 }],
  ])("%s", (text, value) => expect(first(text)?.value).toMatchObject(value));

  it("offers the neighbour's breaking capacity and says so", () => {
    const like: Device = { ...EMPTY_DEVICE, icn: 6000, idn: 0.03, rcd_type: "A" };
    const option = first("b20 rcbo", EMPTY_DEVICE, like);
    expect(option?.value).toMatchObject({ icn: 6000, idn: 0.03, rcd_type: "A" });
    expect(option?.note).toBe("6 kA, 30 mA like its neighbour");
    expect(first("b20 rcbo")?.value.icn).toBeUndefined();
  });

  it("knows no rating that the tables do not have", () => {
    expect(deviceOptions(rules, EMPTY_DEVICE, undefined)("b33")).toEqual([]);
    expect(deviceOptions(rules, EMPTY_DEVICE, undefined)("fuse")).toEqual([]);
    expect(deviceOptions(rules, EMPTY_DEVICE, undefined)("bs88 45")).toEqual([]);
  });
});

describe("a cable as it is typed", () => {
  const now = EMPTY_CABLE;
  it("takes the exact size before the longer ones, and shows its cpc", () => {
    expect(
      cableOptions(
        rules,
        now,
      )("1 flat")
        .map((o) => o.text)
        .slice(0, 2),
    ).toEqual(["1 mm² flat twin & earth", "1.5 mm² flat twin & earth"]);
    expect(cableOptions(rules, now)("10 flat")[0]).toMatchObject({
      value: { csa: 10, cpc_csa: null },
      note: "cpc 4 mm²",
    });
    expect(cableOptions(rules, now)("16/10 singles")[0]).toMatchObject({
      value: { family: "single", csa: 16, cpc_csa: 10 },
    });
  });
});

describe("devices named by their standard", () => {
  const first = (text: string) => deviceOptions(rules, EMPTY_DEVICE, undefined)(text)[0];
  it.each([
    ["bs88 32", { kind: "BS88-2", rating: 32, idn: null }, "32 A BS 88-2 gG fuse"],
    ["63 gg 80kA", { kind: "BS88-2", rating: 63, icn: 80000 }, "63 A BS 88-2 gG fuse"],
    ["mccb 160", { kind: "mccb", rating: 160 }, "160 A MCCB"],
  ])("%s", (text, value, words) => {
    expect(first(text)?.value).toMatchObject(value);
    expect(first(text)?.text).toBe(words);
  });

  it("takes what was only typed again for no change", () => {
    const was = { family: "single", csa: 6, cpc_csa: null as number | null, conduit: true };
    expect(otherThan(was, { family: "single", csa: 10, cpc_csa: null })).toEqual({ csa: 10 });
    expect(otherThan(was, { family: "other", cpc_csa: 4 })).toEqual({ family: "other", cpc_csa: 4 });
    expect(otherThan(was, { ...was })).toEqual({});
  });
});
