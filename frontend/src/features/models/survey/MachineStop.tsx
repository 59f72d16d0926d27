import { FORM_NAMES, GRADE_NAMES } from "@/lib/words";
import { Button } from "@/ui/Button";
import { SelectField, TextField } from "@/ui/Field";
import { useMachineLabel } from "../models.queries";
import { byName, type Fact, FORMS, GRADES, type Page, valueText } from "./document";
import { FactsEditor } from "./FactsEditor";
import { Block, Grid, LineField, Wide } from "./Parts";
import { PhotoField } from "./PhotoField";
import { Rows } from "./Rows";
import { useWalk } from "./useSurvey";

/** Who the machine is: photo and label, maker and name, what is known of all of it, and what it is taken for. */
export function MachineStop({ fixed }: { fixed: boolean }) {
  const { page, change, evidence } = useWalk();
  return (
    <>
      <PhotoField of="the machine" photos={page.photos ?? []} onChange={(photos) => change({ photos })} />
      <div className="mt-3">
        <Names fixed={fixed} />
      </div>
      <FactsEditor
        title="The whole machine"
        subject="facts"
        position={null}
        facts={page.facts ?? {}}
        onChange={(facts) => change({ facts })}
        onRead={(read) => change({ facts: read.facts ?? {} })}
      />
      <Block title="Options" about="what the maker offers: a machine has one of the values, or nobody knows">
        <Options />
      </Block>
      <Block title="Taken for another" about="what tells them apart, best without opening one">
        <LookAlikes />
      </Block>
      <Block title="Evidence" about="what new facts rest on">
        <Grid>
          <SelectField
            label="New facts are"
            value={evidence.grade}
            onChange={(event) =>
              change({
                evidence: { ...evidence, grade: GRADES.find((grade) => grade === event.target.value) ?? "told" },
              })
            }
          >
            {GRADES.map((grade) => (
              <option key={grade} value={grade}>
                {GRADE_NAMES[grade]}
              </option>
            ))}
          </SelectField>
          <TextField
            label="Says who"
            value={evidence.source}
            onChange={(event) => change({ evidence: { ...evidence, source: event.target.value } })}
          />
          <TextField
            label="Seen on"
            type="date"
            value={evidence.date ?? ""}
            hint={evidence.date ? undefined : "nobody knows the day"}
            onChange={(event) => change({ evidence: { ...evidence, date: event.target.value || null } })}
          />
          <TextField
            label="Not to be relied on, because"
            value={page.unverified ?? ""}
            placeholder="nobody has opened one"
            onChange={(event) => change({ unverified: event.target.value || null })}
          />
        </Grid>
      </Block>
    </>
  );
}

/** What the label says, for whoever walks to take: what is typed already is not written over. */
function LabelSays({ text, fixed }: { text: string; fixed: boolean }) {
  const { page, change } = useWalk();
  const read = useMachineLabel(text, page.form).data;
  if (!read) return null;
  const { maker, family, model } = read;
  const offered = { maker, family, name: model };
  const missing = Object.entries(offered).filter(([key, value]) => value && !page[key as "maker" | "family" | "name"]);
  const said = [
    maker && `maker ${maker}`,
    family && `family ${family}`,
    model && `model ${model}`,
    read.size_inches && `${read.size_inches} inches`,
    read.series && `series ${read.series}`,
    read.generation && `generation ${read.generation}`,
    read.code && `code ${read.code}`,
  ].filter(Boolean);
  return (
    <div className="text-[0.9rem] text-soft">
      {said.length > 0 && <p>It says: {said.join(", ")}.</p>}
      {read.asked.map((question) => (
        <p key={question} className="text-thin">
          {question}
        </p>
      ))}
      {!fixed && missing.length > 0 && (
        <Button onClick={() => change(Object.fromEntries(missing))}>
          Take {missing.map(([, value]) => value).join(", ")}
        </Button>
      )}
    </div>
  );
}

function Names({ fixed }: { fixed: boolean }) {
  const { page, change, evidence, today } = useWalk();
  const identity = page.identity ?? {};
  return (
    <Grid>
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
      <Wide>
        <LineField
          label="Label as read"
          value={valueText(identity.label?.[0]?.value)}
          className="code"
          onCommit={(text) =>
            change({ identity: { ...identity, label: labelOf(text, identity.label ?? null, evidence, today) } })
          }
        />
        <LabelSays text={valueText(identity.label?.[0]?.value)} fixed={fixed} />
      </Wide>
      <TextField
        label="Where the label is"
        value={identity.label_place ?? ""}
        onChange={(event) => change({ identity: { ...identity, label_place: event.target.value || null } })}
      />
      <TextField
        label="Inherits from"
        hint="maker and name of a sibling"
        value={page.inherits ?? ""}
        onChange={(event) => change({ inherits: event.target.value || null })}
      />
    </Grid>
  );
}

type Label = Fact[] | null;

/** The label read anew, in place of the reading it corrects. */
function labelOf(text: string, before: Label, evidence: Omit<Fact, "value">, today: string): Label {
  const [first, ...others] = before ?? [];
  if (!text) return null;
  return [first ? { ...first, value: text } : { value: text, ...evidence, grade: "label", date: today }, ...others];
}

type OptionRow = { name: string } & NonNullable<Page["options"]>[string];

function Options() {
  const { page, change } = useWalk();
  const rows: OptionRow[] = Object.entries(page.options ?? {}).map(([name, option]) => ({ name, ...option }));
  return (
    <Rows<OptionRow>
      one="option"
      rows={rows}
      columns={[
        { key: "name", label: "Name", as: "text" },
        { key: "values", label: "Values", as: "list", hint: "by comma" },
        { key: "read", label: "Read where", as: "text" },
      ]}
      name={(row) => row.name}
      fresh={() => ({ name: `option ${rows.length + 1}`, values: ["one", "other"] })}
      onChange={(next) =>
        change({ options: Object.fromEntries(next.map(({ name = "", ...option }) => [name, option])) })
      }
    />
  );
}

type Tell = NonNullable<NonNullable<Page["identity"]>["tells"]>[string];
interface TellRow {
  name: string;
  ask: string;
  opened?: boolean;
  answer: string;
  tell: Tell | null;
}

function LookAlikes() {
  const { page, change, evidence } = useWalk();
  const identity = page.identity ?? {};
  const tells: TellRow[] = Object.entries(identity.tells ?? {}).map(([name, tell]) => ({
    name,
    ask: tell.ask,
    ...(tell.opened ? { opened: true } : {}),
    answer: valueText(tell.value[0]?.value),
    tell,
  }));
  const written = ({ ask, opened, answer, tell }: TellRow): Tell => {
    const [first, ...others] = tell?.value ?? [];
    const same = first && valueText(first.value) === answer;
    const value: Fact[] = [same ? first : { ...(first ?? evidence), value: answer || null }, ...others];
    return { ask: ask ?? "", ...(opened ? { opened } : {}), value };
  };
  return (
    <>
      <Rows
        one="look-alike"
        rows={identity.looks_like ?? []}
        columns={[
          { key: "model", label: "Taken for", as: "text", hint: "maker and name" },
          {
            key: "tell",
            label: "Told apart by",
            as: "choice",
            choices: tells.map((row) => ({ value: row.name, label: row.name.replaceAll("_", " ") })),
            unsaid: "choose a tell",
          },
        ]}
        name={(row) => row.model ?? ""}
        fresh={() => ({ model: "", tell: tells[0]?.name ?? "" })}
        onChange={(looks_like) => change({ identity: { ...identity, looks_like } })}
      />
      <Rows
        one="tell"
        rows={tells}
        columns={[
          { key: "name", label: "Called", as: "text" },
          { key: "ask", label: "Question", as: "text" },
          { key: "answer", label: "Answer for this model", as: "text" },
          { key: "opened", label: "only with it open", as: "tick" },
        ]}
        name={(row) => row.name ?? ""}
        fresh={() => ({ name: `tell_${tells.length + 1}`, ask: "", answer: "", tell: null })}
        onChange={(rows) => {
          const tells = byName(rows.map((row) => [(row.name ?? "").replaceAll(" ", "_"), written(row)]));
          if (tells) change({ identity: { ...identity, tells } });
        }}
      />
    </>
  );
}
