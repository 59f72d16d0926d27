import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, body, isProblem, type Schemas } from "@/api/client";
import { Button } from "@/ui/Button";
import { TextField } from "@/ui/Field";
import { Failed, Waiting } from "@/ui/Notice";
import { Sheet } from "@/ui/Sheet";

export interface SettingsSheetProps {
  title: string;
  about: string;
  found: { data: Schemas["Decisions"] | undefined; error: Error | null };
  onClose: () => void;
}

/** What the company decided; each change holds from today and the old value stays in the record. */
export function SettingsSheet({ title, about, found, onClose }: SettingsSheetProps) {
  return (
    <Sheet open onClose={onClose} title={title} about={about}>
      {found.error && <Failed title="No settings" detail={found.error.message} />}
      {!found.data && !found.error && <Waiting what="Reading the settings" />}
      <div className="grid gap-3">
        {found.data?.settings.map((setting) => (
          <Setting key={`${setting.key}-${setting.number}`} setting={setting} />
        ))}
      </div>
    </Sheet>
  );
}

/** A setting reaches into everything that is computed: all that is on the page is read again. */
function useChangeSetting() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: async (change: Schemas["SettingIn"]) => body(await api.POST("/api/v1/settings", { body: change })),
    onSuccess: () => client.invalidateQueries({ predicate: (query) => query.queryKey[0] !== "session" }),
  });
}

function Setting({ setting }: { setting: Schemas["DecisionView"] }) {
  const [text, setText] = useState(setting.value === null ? "" : String(setting.value));
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
        hint={setting.value === null ? `None set; ${setting.wanted}.` : setting.wanted}
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
