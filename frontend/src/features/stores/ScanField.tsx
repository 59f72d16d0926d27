import { useMutation } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { useNavigate } from "react-router";
import { api, body } from "@/api/client";
import { useSite } from "@/lib/useSite";

/** A scan of a part, a shelf, a lot, an order or a serial opens the act that fits; typed, it does the same. */
export function ScanField() {
  const [text, setText] = useState("");
  const input = useRef<HTMLInputElement>(null);
  const [site] = useSite();
  const navigate = useNavigate();
  const scan = useMutation({
    mutationFn: async (given: string) =>
      body(await api.GET("/api/v1/stores/scan", { params: { query: { text: given, ...(site ? { site } : {}) } } })),
    onSuccess: ({ path }) => {
      setText("");
      input.current?.blur();
      void navigate(path);
    },
  });
  return (
    <form
      className="flex items-baseline gap-2"
      onSubmit={(event) => {
        event.preventDefault();
        if (text.trim()) scan.mutate(text.trim());
      }}
    >
      <input
        ref={input}
        value={text}
        aria-label="Scan a part, shelf, lot, order or serial"
        placeholder="Scan a part, shelf, lot, order"
        className="code w-[26ch] border-b border-ink bg-transparent px-1 py-0.5 placeholder:font-sans placeholder:text-soft"
        onChange={(event) => setText(event.target.value)}
      />
      {scan.error && (
        <span role="alert" className="font-semibold text-short">
          {scan.error.message}
        </span>
      )}
    </form>
  );
}
