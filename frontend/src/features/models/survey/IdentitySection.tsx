import { FORM_NAMES, GRADE_NAMES } from "@/lib/words";
import { SelectField, TextField } from "@/ui/Field";
import { Block } from "./Block";
import { FORMS, GRADES, valueText, words } from "./document";
import { LineField } from "./LineField";
import type { SectionProps } from "./section";

/** Who the machine is: label, maker and name, what it inherits, and the evidence new facts are given. */
export function IdentitySection({
  page,
  change,
  evidence,
  fixed,
  today,
}: SectionProps & { fixed: boolean; today: string }) {
  const identity = page.identity ?? {};
  const label = identity.label?.[0];
  return (
    <Block title="Identity">
      <div className="grid grid-cols-4 gap-3">
        <TextField
          label="Maker"
          value={page.maker}
          disabled={fixed}
          onChange={(event) => change({ maker: event.target.value })}
        />
        <TextField
          label="Model"
          value={page.name}
          disabled={fixed}
          onChange={(event) => change({ name: event.target.value })}
        />
        <TextField label="Family" value={page.family} onChange={(event) => change({ family: event.target.value })} />
        <SelectField
          label="Form"
          value={page.form}
          onChange={(event) => change({ form: FORMS.find((form) => form === event.target.value) ?? "notebook" })}
        >
          {FORMS.map((form) => (
            <option key={form} value={form}>
              {FORM_NAMES[form]}
            </option>
          ))}
        </SelectField>
        <div className="col-span-2">
          <LineField
            label="Label as read"
            value={valueText(label?.value)}
            className="code"
            onCommit={(text) =>
              change({
                identity: {
                  ...identity,
                  label: text ? [{ value: text, ...evidence, grade: "label", date: today }] : null,
                },
              })
            }
          />
        </div>
        <TextField
          label="Where the label is"
          value={identity.label_place ?? ""}
          onChange={(event) => change({ identity: { ...identity, label_place: event.target.value || null } })}
        />
        <TextField
          label="Unverified, because"
          value={page.unverified ?? ""}
          onChange={(event) => change({ unverified: event.target.value || null })}
        />
        <TextField
          label="Inherits from"
          hint="maker and name of a sibling; only differences are written"
          value={page.inherits ?? ""}
          onChange={(event) => change({ inherits: event.target.value || null })}
        />
        <LineField
          label="Options"
          hint="name: value, value; next name: …"
          value={Object.entries(page.options ?? {})
            .map(([name, option]) => `${name}: ${option.values.join(", ")}`)
            .join("; ")}
          onCommit={(text) => change({ options: optionsFrom(text) })}
        />
        <SelectField
          label="New facts are"
          value={evidence.grade}
          onChange={(event) =>
            change({ evidence: { ...evidence, grade: GRADES.find((grade) => grade === event.target.value) ?? "told" } })
          }
        >
          {GRADES.map((grade) => (
            <option key={grade} value={grade}>
              {GRADE_NAMES[grade]}
            </option>
          ))}
        </SelectField>
        <TextField
          label="By"
          value={evidence.source}
          onChange={(event) => change({ evidence: { ...evidence, source: event.target.value } })}
        />
      </div>
    </Block>
  );
}

function optionsFrom(text: string): Record<string, { values: string[] }> {
  const found: Record<string, { values: string[] }> = {};
  for (const item of text.split(";")) {
    const [name = "", values = ""] = item.split(":");
    if (name.trim() && values.trim()) found[name.trim()] = { values: words(values) };
  }
  return found;
}
