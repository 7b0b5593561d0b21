import { Button, PasswordInput } from "@mantine/core";
import { useState, type FormEvent } from "react";
import { api, type Problem } from "../api/client";
import { Mark } from "../blocks/Mark";
import { sentence } from "../blocks/words";
import css from "./KeyGate.module.css";

/** Asks for the key of this server. */
export function AskKey({ onGiven }: { onGiven: () => void }) {
  const [key, setKey] = useState("");
  const [problem, setProblem] = useState<Problem | null>(null);
  const [asking, setAsking] = useState(false);
  const give = async (event: FormEvent) => {
    event.preventDefault();
    setAsking(true);
    try {
      await api.giveKey(key);
      onGiven();
    } catch (error) {
      setProblem(error as Problem);
    } finally {
      setAsking(false);
    }
  };
  return (
    <main className={css.page}>
      <form className={css.sheet} onSubmit={(event) => void give(event)}>
        <p className={css.mark}>
          <Mark /> Aim True
        </p>
        <h1>This server wants its key</h1>
        <p className="soft">Whoever runs it has it. It is asked for once, and kept by this browser.</p>
        <PasswordInput label="Key" value={key} onChange={(event) => setKey(event.currentTarget.value)} autoFocus />
        {problem && (
          <p role="alert" className="stop">
            {sentence(problem.says)} {sentence(problem.remedy)}
          </p>
        )}
        <Button type="submit" disabled={!key.trim() || asking}>
          Open
        </Button>
      </form>
    </main>
  );
}
