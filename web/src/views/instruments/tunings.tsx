import { Pick } from "../../parts/pick";
import { named } from "../../words/notes";
import { OWN_NOTES } from "./asked";
import type { Prepared } from "./prepared";

type TuningsProps = {
  label: string;
  instrument: Prepared["instrument"];
  value: string;
  /** A tuning of the catalogue, for which the fittest method is found; or notes of one’s own, with
   * those to begin with. */
  onPick: (picked: { tuning: string; notes: string; method?: string }) => void;
};

/** The tunings of an instrument, found by name or notes, and notes of one’s own. */
export function Tunings({ label, instrument, value, onPick }: TuningsProps) {
  const options = [
    ...instrument.tunings.map((one) => ({
      id: one.id,
      words: one.name,
      about: instrument.strings.length > 8 ? one.about : named(one.notes),
    })),
    {
      id: OWN_NOTES,
      words: "Your own notes …",
      about: "Checked against what the strings can bear",
    },
  ];
  const known = options.some((one) => one.id === value) ? value : "standard";
  return (
    <Pick
      label={label}
      value={known}
      options={options}
      search="Find by name or notes"
      onPick={(id) => {
        const before = instrument.tunings.find((one) => one.id === known) ?? instrument.tunings[0];
        if (id === OWN_NOTES) onPick({ tuning: id, notes: before?.notes ?? "" });
        else onPick({ tuning: id, notes: "", method: "" });
      }}
    />
  );
}
