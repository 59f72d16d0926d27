import { useForm } from "react-hook-form";
import { isProblem } from "@/api/client";
import { Button } from "@/ui/Button";
import { TextField } from "@/ui/Field";
import { useSignIn } from "./session.queries";

interface Credentials {
  login: string;
  password: string;
}

export function SignInPage({ signedOut = false }: { signedOut?: boolean }) {
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
      <form className="grid gap-4" onSubmit={handleSubmit((values) => signIn.mutate(values))} noValidate>
        <TextField
          label="Login"
          autoComplete="username"
          autoFocus
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
