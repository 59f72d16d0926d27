import { useForm } from "react-hook-form";
import { isProblem } from "@/api/client";
import { moment, plural } from "@/lib/format";
import { Button } from "@/ui/Button";
import { FailedToRead } from "@/ui/FailedToRead";
import { TextField } from "@/ui/Field";
import { Waiting } from "@/ui/Notice";
import { type SignIn, useChangePassword, useEndOthers, useEndSignIn, useSignIns } from "./account.queries";
import { browserName } from "./browser";
import { NewPassword } from "./NewPassword";

/** A user's own account: another password, and where they are signed in. */
export default function AccountPage() {
  return (
    <div className="min-h-0 flex-1 overflow-auto p-4">
      <h1 className="text-[1.75rem]">Your account</h1>
      <SignIns />
      <Password />
    </div>
  );
}

function SignIns() {
  const found = useSignIns();
  const others = useEndOthers();
  if (found.isError) return <FailedToRead title="Not to be seen" query={found} />;
  if (!found.data) return <Waiting what="Looking where you are signed in" />;
  const { sign_ins, idle_hours, sign_in_days } = found.data;
  const elsewhere = sign_ins.filter((one) => !one.own).length;
  return (
    <section className="mt-2 max-w-[760px]" aria-labelledby="sign-ins">
      <h2 id="sign-ins" className="text-[1.3rem]">
        Where you are signed in
      </h2>
      <p className="text-soft">
        {elsewhere === 0 ? "Only here." : `Here, and on ${plural(elsewhere, "other browser")}.`} A sign-in ends after{" "}
        {span(idle_hours)} in which nobody uses it, and after {span(sign_in_days * 24)} however it is used.
      </p>
      <table className="mt-1 w-full">
        <thead>
          <tr className="border-b border-ink">
            {["Browser", "Since", "Last used", ""].map((name) => (
              <th key={name} scope="col" className="py-1 pr-3">
                {name || <span className="sr-only">Act</span>}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {sign_ins.map((one) => (
            <Row key={one.id} signIn={one} />
          ))}
        </tbody>
      </table>
      {elsewhere > 0 && (
        <p className="mt-2">
          <Button disabled={others.isPending} onClick={() => others.mutate()}>
            Sign out everywhere else
          </Button>
        </p>
      )}
    </section>
  );
}

/** A time that was decided in hours or days, in the words a person would use. */
const span = (hours: number): string => {
  if (hours < 1) return plural(Math.round(hours * 60), "minute");
  return hours < 48 ? plural(Number(hours.toFixed(2)), "hour") : plural(Number((hours / 24).toFixed(2)), "day");
};

function Row({ signIn }: { signIn: SignIn }) {
  const end = useEndSignIn();
  return (
    <tr className="border-b border-dotted border-rule">
      <th scope="row" className="py-1 pr-3 font-normal" title={signIn.device}>
        {browserName(signIn.device) || "it did not say"}
        {signIn.own && <strong className="ml-2">this one</strong>}
      </th>
      <td className="pr-3">{moment(signIn.began_at)}</td>
      <td className="pr-3">{moment(signIn.seen_at)}</td>
      <td className="text-right">
        {!signIn.own && (
          <Button
            look="quiet"
            aria-label={`Sign out on ${browserName(signIn.device)}, since ${moment(signIn.began_at)}`}
            disabled={end.isPending}
            onClick={() => end.mutate(signIn.id)}
          >
            Sign out
          </Button>
        )}
      </td>
    </tr>
  );
}

interface Fields {
  current: string;
  new: string;
  again: string;
}

function Password() {
  const { register, handleSubmit, reset, setError, formState } = useForm<Fields>({
    defaultValues: { current: "", new: "", again: "" },
  });
  const change = useChangePassword();
  const problem = isProblem(change.error) ? change.error : null;
  const send = (values: Fields): void => {
    if (values.new !== values.again) {
      setError("again", { message: "the two differ: type the new one again" });
      return;
    }
    change.mutate({ current: values.current, new: values.new }, { onSuccess: () => reset() });
  };
  return (
    <section className="mt-6 max-w-[420px]" aria-labelledby="password">
      <h2 id="password" className="text-[1.3rem]">
        Another password
      </h2>
      <form className="mt-2 grid gap-3" onSubmit={handleSubmit(send)} noValidate>
        <TextField
          label="Present password"
          type="password"
          autoComplete="current-password"
          fault={problem?.at("current")}
          {...register("current")}
        />
        <NewPassword
          label="New password"
          fault={problem?.at("new")}
          differ={formState.errors.again?.message}
          first={register("new")}
          second={register("again")}
          problem={problem}
        />
        <p>
          <Button type="submit" look="main" disabled={change.isPending}>
            {change.isPending ? "Changing…" : "Change it"}
          </Button>
        </p>
        {change.isSuccess && (
          <p role="status">
            Changed. {change.data.ended > 0 && `You are signed out on ${plural(change.data.ended, "other browser")}.`}
          </p>
        )}
      </form>
    </section>
  );
}
