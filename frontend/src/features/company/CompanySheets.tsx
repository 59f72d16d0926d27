import { useState } from "react";
import type { Schemas } from "@/api/client";
import { AskSheet, ValueField } from "@/shared/AskSheet";
import { SelectField } from "@/ui/Field";
import {
  type Company,
  type SiteFields,
  useAddSite,
  useAddSupplier,
  useDescribe,
  useEditSite,
  useEditSupplier,
} from "./company.queries";

const HOLDS = "What is changed holds from now on; what it was stays on record.";

/** What the company is called, what it counts in, and by which clock its days go. */
export function AboutSheet({ company, onClose }: { company: Company; onClose: () => void }) {
  const [fields, setFields] = useState(company.fields);
  const describe = useDescribe();
  return (
    <AskSheet
      title="The company"
      about={HOLDS}
      label="Change it"
      sending={describe}
      fields={["name", "currency", "time_zone"]}
      onSend={() => describe.mutate({ fields, expected_changes: company.number_of_changes }, { onSuccess: onClose })}
      onClose={onClose}
    >
      {(problem) => (
        <>
          <ValueField
            label="Name"
            value={fields.name}
            fault={problem?.at("name") ?? undefined}
            onValue={(name) => setFields({ ...fields, name })}
          />
          <ValueField
            label="Currency"
            hint="Three letters, such as EUR. Prices on record are not converted."
            maxLength={3}
            value={fields.currency}
            fault={problem?.at("currency") ?? undefined}
            onValue={(currency) => setFields({ ...fields, currency: currency.toUpperCase() })}
          />
          <ValueField
            label="Time zone"
            hint="Such as UTC or Europe/Paris."
            value={fields.time_zone}
            fault={problem?.at("time_zone") ?? undefined}
            onValue={(time_zone) => setFields({ ...fields, time_zone })}
          />
        </>
      )}
    </AskSheet>
  );
}

interface SiteSheetProps {
  site: Schemas["SiteView"] | undefined;
  zone: string;
  today: string;
  onClose: () => void;
}

/** A site: a new one with its code, or one as it stands. */
export function SiteSheet({ site, zone, today, onClose }: SiteSheetProps) {
  const [code, setCode] = useState("");
  const [fields, setFields] = useState<SiteFields>(
    site?.fields ?? { name: "", time_zone: zone, environment: "office", log_began_on: today },
  );
  const edit = useEditSite(site?.code ?? "");
  const add = useAddSite();
  const sending = site ? edit : add;
  const send = (): void =>
    site
      ? edit.mutate({ fields, expected_changes: site.number_of_changes }, { onSuccess: onClose })
      : add.mutate({ code, fields }, { onSuccess: onClose });
  return (
    <AskSheet
      title={site ? `${site.fields.name}, ${site.code}` : "A new site"}
      about={
        site ? HOLDS : "The first site is where orders are delivered to; how others are supplied is set in Stores."
      }
      label={site ? "Change it" : "Add it"}
      sending={sending}
      fields={["code", "name", "time_zone", "environment", "log_began_on"]}
      onSend={send}
      onClose={onClose}
    >
      {(problem) => (
        <>
          {!site && (
            <ValueField
              label="Code"
              hint="Two to eight letters and digits; it stands on labels and never changes."
              maxLength={8}
              value={code}
              fault={problem?.at("code") ?? undefined}
              onValue={(text) => setCode(text.toUpperCase())}
            />
          )}
          <ValueField
            label="Name"
            value={fields.name}
            fault={problem?.at("name") ?? undefined}
            onValue={(name) => setFields({ ...fields, name })}
          />
          <ValueField
            label="Repairs written down since"
            type="date"
            hint="Every repair since that day is on record. An empty log before it is not years without a failure."
            value={fields.log_began_on}
            fault={problem?.at("log_began_on") ?? undefined}
            onValue={(log_began_on) => setFields({ ...fields, log_began_on })}
          />
          <SelectField
            label="Air"
            value={fields.environment}
            onChange={(event) => setFields({ ...fields, environment: event.target.value as SiteFields["environment"] })}
          >
            <option value="office">office</option>
            <option value="salt">salt: by the sea or on board</option>
            <option value="dust">dust: workshops, warehouses</option>
          </SelectField>
          <ValueField
            label="Time zone"
            value={fields.time_zone}
            fault={problem?.at("time_zone") ?? undefined}
            onValue={(time_zone) => setFields({ ...fields, time_zone })}
          />
        </>
      )}
    </AskSheet>
  );
}

interface SupplierSheetProps {
  supplier: Schemas["SupplierView"] | undefined;
  onClose: () => void;
}

/** A supplier: its name and the days it states. */
export function SupplierSheet({ supplier, onClose }: SupplierSheetProps) {
  const [fields, setFields] = useState(supplier?.fields ?? { name: "", lead_time: "" });
  const edit = useEditSupplier(supplier?.id ?? 0);
  const add = useAddSupplier();
  return (
    <AskSheet
      title={supplier?.fields.name ?? "A new supplier"}
      about={supplier ? HOLDS : "Its deliveries will teach how long it takes; until then it is what it states."}
      label={supplier ? "Change it" : "Add it"}
      sending={supplier ? edit : add}
      fields={["name", "lead_time"]}
      onSend={() =>
        supplier
          ? edit.mutate({ fields, expected_changes: supplier.number_of_changes }, { onSuccess: onClose })
          : add.mutate(fields, { onSuccess: onClose })
      }
      onClose={onClose}
    >
      {(problem) => (
        <>
          <ValueField
            label="Name"
            value={fields.name}
            fault={problem?.at("name") ?? undefined}
            onValue={(name) => setFields({ ...fields, name })}
          />
          <ValueField
            label="Days until an order comes"
            hint="21, or with weights 18:0.25; 21:0.75"
            value={fields.lead_time}
            fault={problem?.at("lead_time") ?? undefined}
            onValue={(lead_time) => setFields({ ...fields, lead_time })}
          />
        </>
      )}
    </AskSheet>
  );
}
