import { useState } from "react";
import { isProblem, type Schemas } from "@/api/client";
import { Button } from "@/ui/Button";
import { TextField } from "@/ui/Field";
import { Failed, Waiting } from "@/ui/Notice";
import { Sheet } from "@/ui/Sheet";
import { useBenchSettings, useChangeSetting } from "./bench.queries";

/** What the company decided about its bench; each change holds from today and the old value stays in the record. */
export function SettingsSheet({ onClose }: { onClose: () => void }) {
  const found = useBenchSettings();
  return (
    <Sheet open onClose={onClose} title="Settings of the bench" about="They hold from today on, for every job.">
      {found.isError && <Failed title="No settings" detail={found.error.message} />}
      {!found.data && !found.isError && <Waiting what="Reading the settings" />}
      <div className="grid gap-3">
        {found.data?.settings.map((setting) => (
          <Setting key={`${setting.key}-${setting.number}`} setting={setting} />
        ))}
      </div>
    </Sheet>
  );
}

function Setting({ setting }: { setting: Schemas["BenchSettingView"] }) {
  const [text, setText] = useState(String(setting.value));
  const change = useChangeSetting();
  const problem = isProblem(change.error) ? change.error : null;
  const value = Number(text.replace(",", "."));
  const changed = text.trim() !== "" && value !== setting.value;
  return (
    <form
      className="grid grid-cols-[minmax(0,1fr)_auto] items-end gap-3"
      onSubmit={(event) => {
        event.preventDefault();
        change.mutate({
          scope: "company",
          scope_key: "",
          key: setting.key,
          value,
          expected_number: setting.number,
        });
      }}
    >
      <TextField
        label={setting.words}
        hint={setting.wanted}
        inputMode="decimal"
        value={text}
        fault={problem?.at("value") ?? problem?.detail}
        onChange={(event) => setText(event.target.value)}
      />
      <Button type="submit" disabled={!changed || !Number.isFinite(value) || change.isPending}>
        Keep
      </Button>
    </form>
  );
}
