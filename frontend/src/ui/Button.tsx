import type { ButtonHTMLAttributes } from "react";

type Look = "main" | "plain" | "quiet";

const LOOKS: Record<Look, string> = {
  main: "bg-ink text-leaf border-ink hover:bg-accent hover:border-accent",
  plain: "bg-leaf text-ink border-ink hover:bg-pick",
  quiet: "bg-transparent text-accent border-transparent underline underline-offset-2 hover:bg-pick",
};

export interface ButtonProps extends ButtonHTMLAttributes<HTMLButtonElement> {
  look?: Look;
}

export function Button({ look = "plain", className = "", type = "button", ...rest }: ButtonProps) {
  return (
    <button
      type={type}
      className={`rounded-[2px] border px-3 py-1.5 font-semibold disabled:cursor-not-allowed disabled:opacity-50 ${LOOKS[look]} ${className}`}
      {...rest}
    />
  );
}
