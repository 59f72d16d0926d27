import { useForm } from "react-hook-form";
import { isProblem } from "@/api/client";
import { Button } from "@/ui/Button";
import { TextField } from "@/ui/Field";
import { type Session, useSignIn } from "./session.queries";

interface Credentials {
  login: string;
  password: string;
}

interface SignInPageProps {
  signedOut?: boolean;
  provider?: Session["provider"];
}

export function SignInPage({ signedOut = false, provider = null }: SignInPageProps) {
  const { register, handleSubmit } = useForm<Credentials>({ defaultValues: { login: "", password: "" } });
  const signIn = useSignIn();
  const problem = isProblem(signIn.error) ? signIn.error : null;
  return (
    <main className="mx-auto mt-[16vh] w-[min(380px,92vw)] border-t-4 border-double border-ink bg-leaf p-7">
      <h1 className="text-[2rem]">Parts Almanac</h1>
      <p className="mt-1 mb-5 text-soft">What is inside, what fails, what to order by which day.</p>
      {signedOut && (
        <p role="status" className="mb-4 border-l-4 border-thin bg-pick p-2">
          You were signed out: your session had ended. Sign in, and the page you were on comes back; what was not saved
          has to be done again.
        </p>
      )}
      {provider && <Through provider={provider} />}
      <form className="grid gap-4" onSubmit={handleSubmit((values) => signIn.mutate(values))} noValidate>
        <TextField
          label="Login"
          autoComplete="username"
          autoFocus={!provider}
          fault={problem?.at("login")}
          {...register("login", { required: true })}
        />
        <TextField
          label="Password"
          type="password"
          autoComplete="current-password"
          fault={problem?.at("password")}
          {...register("password", { required: true })}
        />
        {problem && problem.faults.length === 0 && (
          <p role="alert" className="font-semibold text-short">
            {problem.detail}
          </p>
        )}
        <Button type="submit" look="main" disabled={signIn.isPending}>
          {signIn.isPending ? "Signing in…" : "Sign in"}
        </Button>
      </form>
    </main>
  );
}

/** The way to the company's identity provider; what went wrong on the way back stands above it. */
function Through({ provider }: { provider: NonNullable<Session["provider"]> }) {
  const { pathname, search } = window.location;
  const refused = new URLSearchParams(search).get("refused");
  const wanted = refused ? "/" : pathname + search;
  return (
    <>
      {refused && (
        <p role="alert" className="mb-4 border-l-4 border-short bg-pick p-2">
          {provider.refused[refused] ?? "You were not signed in: try again."}
        </p>
      )}
      <a
        className="block rounded-[2px] border border-ink bg-ink px-3 py-1.5 text-center font-semibold text-leaf hover:border-accent hover:bg-accent"
        href={`/api/v1/session/provider?to=${encodeURIComponent(wanted)}`}
      >
        Sign in with {provider.name}
      </a>
      <p className="my-4 border-t border-rule pt-3 text-soft">Or with a password of this almanac:</p>
    </>
  );
}
