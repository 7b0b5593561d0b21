import { useQuery } from "@tanstack/react-query";
import { useLocation } from "wouter";
import { api } from "../api/client";
import { tell } from "../api/useJob";
import { Press } from "../blocks/Press";
import css from "./Jobs.module.css";

/** Example files that come with the app; each shows one promise, by being worked on. */
export function ExampleJobs({ opened }: { opened?: () => void }) {
  const [, go] = useLocation();
  const { data } = useQuery({ queryKey: ["examples"], queryFn: api.examples, staleTime: Infinity });
  const open = (name: string) =>
    api
      .openExample(name)
      .then(({ id }) => {
        opened?.();
        go(`/jobs/${id}/intake`);
      })
      .catch(tell);
  if (!data) return null;
  return (
    <section aria-label={opened ? "Examples" : "Examples to try"}>
      <h2>Try it with one of ours</h2>
      <ul className={css.examples}>
        {data.map((example) => (
          <li key={example.name}>
            <b>{example.promise}</b>
            <span>{example.says}</span>
            <Press className="link" onClick={() => open(example.name)}>
              Open {example.name}
            </Press>
          </li>
        ))}
      </ul>
    </section>
  );
}
