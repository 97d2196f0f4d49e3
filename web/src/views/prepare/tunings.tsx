import { Pick } from "../../parts/pick";
import { OWN_NOTES } from "./asked";
import type { Prepared } from "./prepared";

/** The tunings of an instrument, and notes of one’s own. */
export function Tunings({ label, instrument, asked, change }: Prepared & { label: string }) {
  const options = [
    ...instrument.tunings.map((one) => ({
      id: one.id,
      words: one.name,
      about: instrument.strings.length > 8 ? one.about : one.notes,
    })),
    {
      id: OWN_NOTES,
      words: "Your own notes …",
      about: "Checked against what the strings can bear",
    },
  ];
  const value = options.some((one) => one.id === asked.tuning) ? asked.tuning : "standard";
  return (
    <Pick
      label={label}
      value={value}
      options={options}
      onPick={(id) => {
        if (id !== OWN_NOTES) return change({ tuning: id, notes: "", method: "" });
        const notes = instrument.tunings.find((one) => one.id === value)?.notes ?? asked.notes;
        change({ tuning: id, notes });
      }}
    />
  );
}
