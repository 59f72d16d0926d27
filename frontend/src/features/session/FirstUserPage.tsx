import { useForm } from "react-hook-form";
import { isProblem, type Schemas } from "@/api/client";
import { Button } from "@/ui/Button";
import { TextField } from "@/ui/Field";
import { useFirstUser } from "./session.queries";

type Fields = Schemas["FirstUserIn"];

const BLANK: Fields = { code: "", company: "", currency: "EUR", time_zone: "", login: "", name: "", password: "" };

/** An empty company: who holds the code that the server printed describes it and is its first lead. */
export function FirstUserPage() {
  const zone = Intl.DateTimeFormat().resolvedOptions().timeZone || "UTC";
  const { register, handleSubmit } = useForm<Fields>({ defaultValues: { ...BLANK, time_zone: zone } });
  const begin = useFirstUser();
  const problem = isProblem(begin.error) ? begin.error : null;
  const field = (name: keyof Fields) => ({ fault: problem?.at(name), ...register(name) });
  return (
    <main className="mx-auto my-[6vh] w-[min(560px,94vw)] border-t-4 border-double border-ink bg-leaf p-7">
      <h1 className="text-[2rem]">Parts Almanac</h1>
      <p className="mt-1 mb-5 text-soft">
        Nobody works here yet. Who begins is a lead, and makes the other logins. For a look around with invented data
        start it without <span className="code">--empty</span>.
      </p>
      <form className="grid gap-4" onSubmit={handleSubmit((values) => begin.mutate(values))} noValidate>
        <TextField
          label="Code"
          hint="It was printed where the server was started, such as K7QD-3M9P-X2VB."
          autoComplete="off"
          autoFocus
          {...field("code")}
        />
        <TextField label="Company" autoComplete="organization" {...field("company")} />
        <div className="grid grid-cols-2 gap-3">
          <TextField label="Currency" hint="Three letters." maxLength={3} {...field("currency")} />
          <TextField label="Time zone" hint="Such as UTC." {...field("time_zone")} />
        </div>
        <div className="grid grid-cols-2 gap-3">
          <TextField label="Your name" autoComplete="name" {...field("name")} />
          <TextField label="Login" autoComplete="username" {...field("login")} />
        </div>
        <TextField
          label="Password"
          type="password"
          hint="Twelve characters or more."
          autoComplete="new-password"
          {...field("password")}
        />
        {problem && problem.faults.length === 0 && (
          <p role="alert" className="font-semibold text-short">
            {problem.detail}
          </p>
        )}
        <Button type="submit" look="main" disabled={begin.isPending}>
          {begin.isPending ? "Beginning…" : "Begin"}
        </Button>
      </form>
    </main>
  );
}
