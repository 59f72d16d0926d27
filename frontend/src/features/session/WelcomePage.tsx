import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useForm } from "react-hook-form";
import { useNavigate } from "react-router";
import { api, body, isProblem } from "@/api/client";
import { Button } from "@/ui/Button";
import { Waiting } from "@/ui/Notice";
import { NewPassword } from "./NewPassword";
import { remember, useSession } from "./session.queries";

/** Where a link leads by which somebody chooses a password. What opens stands behind the #: no server and no log reads it there. */
export default function WelcomePage() {
  const session = useSession();
  const [token] = useState(() => window.location.hash.slice(1));
  const owner = useQuery({
    queryKey: ["welcome", token],
    enabled: session.data !== undefined,
    retry: false,
    queryFn: async () => body(await api.POST("/api/v1/password-link", { body: { token } })),
  });
  if (session.isError || owner.isError) {
    const why = owner.error ?? session.error;
    return (
      <Card>
        <p role="alert" className="font-semibold text-short">
          {isProblem(why) ? why.detail : "The almanac does not answer: try again in a moment."}
        </p>
        <a className="mt-3 inline-block text-accent underline" href="/">
          Sign in
        </a>
      </Card>
    );
  }
  if (!owner.data) return <Waiting what="Opening the link" />;
  return (
    <Card>
      <p className="mb-4">
        Welcome, <strong>{owner.data.name}</strong>. You sign in as <span className="code">{owner.data.login}</span>.
        Choose a password; the link opens nothing afterwards.
      </p>
      <Choose token={token} login={owner.data.login} />
    </Card>
  );
}

const Card = ({ children }: { children: React.ReactNode }) => (
  <main className="mx-auto mt-[16vh] w-[min(420px,92vw)] border-t-4 border-double border-ink bg-leaf p-7">
    <h1 className="mb-3 text-[2rem]">Parts Almanac</h1>
    {children}
  </main>
);

interface Fields {
  password: string;
  again: string;
}

function Choose({ token, login }: { token: string; login: string }) {
  const client = useQueryClient();
  const navigate = useNavigate();
  const { register, handleSubmit, setError, formState } = useForm<Fields>({
    defaultValues: { password: "", again: "" },
  });
  const choose = useMutation({
    mutationFn: async (password: string) =>
      remember(body(await api.POST("/api/v1/password-link/use", { body: { token, password } }))),
    onSuccess: (session) => {
      client.clear();
      client.setQueryData(["session"], session);
      void navigate("/", { replace: true });
    },
  });
  const problem = isProblem(choose.error) ? choose.error : null;
  const send = (values: Fields): void => {
    if (values.password !== values.again) {
      setError("again", { message: "the two differ: type it again" });
      return;
    }
    choose.mutate(values.password);
  };
  return (
    <form className="grid gap-3" onSubmit={handleSubmit(send)} noValidate>
      <input type="hidden" autoComplete="username" value={login} readOnly />
      <NewPassword
        label="Password"
        fault={problem?.at("password")}
        differ={formState.errors.again?.message}
        first={register("password")}
        second={register("again")}
        problem={problem}
        begins
      />
      <Button type="submit" look="main" disabled={choose.isPending}>
        {choose.isPending ? "Opening…" : "Choose it and sign in"}
      </Button>
    </form>
  );
}
