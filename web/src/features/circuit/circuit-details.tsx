import type { Change, Circuit } from "../../api/types";
import { More } from "../../parts/more";
import { PartFields } from "../../parts/part-fields";
import { setFields, useStore } from "../../sync/job-context";
import { OF_DRIVER } from "./driver-words";
import { loadText } from "./reading";
import { CIRCUIT_DETAILS } from "./words";

/** What the sentences of a source say. */
const OF_SOURCE = [
  "joins",
  "battery",
  "loss_of_mains",
  "parted",
  "fault_amps",
  "maker_rcd",
  "alone",
  "alone_amps",
  "alone_off",
  "alone_earth",
  "alone_ra",
];

/** What the sentence does not say: every other field of the circuit, its device, cable and loads. */
export function CircuitDetails({ circuit }: { circuit: Circuit }) {
  const store = useStore();
  const set = (fields: Change["fields"]) => store.edit([setFields("circuit", circuit.id, fields)]);
  return (
    <More title={CIRCUIT_DETAILS.otherDetails} note="not shown in the sentence above">
      <PartFields kind="circuit" values={circuit} onSave={set} skip={["name", "shape", "board"]} />
      <More title={CIRCUIT_DETAILS.device}>
        <PartFields kind="device" values={circuit.device} onSave={(device) => set({ device })} />
      </More>
      <More title={CIRCUIT_DETAILS.cable}>
        <PartFields
          kind="cable"
          values={circuit.run.cable}
          onSave={(cable) => set({ cable })}
          skip={["family", "csa"]}
        />
      </More>
      {circuit.loads.map((load) => (
        <More key={load.id} title={`Load: ${loadText(load) || "unnamed"}`}>
          <PartFields
            kind="load"
            values={load}
            onSave={(fields) => store.edit([setFields("load", load.id, fields)])}
            skip={["amount", "basis", "span", ...OF_SOURCE, ...OF_DRIVER]}
          />
        </More>
      ))}
    </More>
  );
}
