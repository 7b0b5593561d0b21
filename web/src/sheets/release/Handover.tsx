import { Checkbox } from "@mantine/core";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { api, Problem } from "../../api/client";
import { tell, type JobHandle } from "../../api/useJob";
import type { Drive, CardSettings, PutView } from "../../api/types";
import { Choice } from "../../blocks/Choice";
import { Fold } from "../../blocks/Fold";
import { Press } from "../../blocks/Press";
import { bytes } from "../../blocks/numbers";
import { dateAndTime } from "../../house/dates";
import { typedNumber } from "../../blocks/typed";
import { TypedField } from "../../blocks/TypedField";
import { sentence } from "../../blocks/words";
import { Working } from "../../blocks/Working";
import { ReceivingEnd } from "./ReceivingEnd";
import css from "./ReleaseSheet.module.css";

/** A release on its way: seen as it would arrive, put down on a drive, or sent to a next program. */
export function Handover({ handle, release }: { handle: JobHandle; release: number }) {
  const job = handle.view.id;
  const cache = useQueryClient();
  const task = handle.view.tasks.find((one) => one.kind === "send");
  const busy = task && (task.state === "waiting" || task.state === "doing") ? task : null;
  const { data: before = [] } = useQuery({
    queryKey: ["handovers", job, release],
    queryFn: () => api.handovers(job, release),
  });
  const again = () => cache.invalidateQueries({ queryKey: ["handovers", job, release] });
  useEffect(() => {
    void cache.invalidateQueries({ queryKey: ["handovers", job, release] });
  }, [cache, job, release, task?.state]);
  return (
    <div className={css.handover}>
      <Fold title="As it arrives" name="release-receiving" says="a receiving end, simulated">
        <ReceivingEnd job={job} release={release} />
      </Fold>
      <Fold title="Onto a drive" name="release-drive" says="a card, simulated, or a folder">
        <Drives job={job} release={release} done={again} />
      </Fold>
      <Fold title="To a program" name="release-send" says="over HTTP">
        <Send handle={handle} release={release} />
        {busy && <Working task={busy} />}
        {task?.state === "failed" && task.error && (
          <p className="stop" role="alert">
            {sentence(task.error.says)} {sentence(task.error.remedy ?? "")}
          </p>
        )}
      </Fold>
      {before.length > 0 && (
        <ul className={css.handed} aria-label="Handed over">
          {before.slice(0, 5).map((one, i) => (
            <li key={i}>
              <span className={one.whole ? "settled" : "stop"}>{one.whole ? "✓" : "✗"}</span> {one.target}: {one.says}
              <small>{dateAndTime(one.at)}</small>
            </li>
          ))}
        </ul>
      )}
    </div>
  );
}

function Drives({ job, release, done }: { job: string; release: number; done: () => void }) {
  const cache = useQueryClient();
  const { data: drives = [] } = useQuery({ queryKey: ["drives"], queryFn: api.drives });
  const [drive, choose] = useState("card");
  const [replace, setReplace] = useState(false);
  const [report, setReport] = useState<PutView | null>(null);
  const [problem, setProblem] = useState<Problem | null>(null);
  const at = drives.find((one) => one.id === drive);
  const refresh = () =>
    Promise.all([cache.invalidateQueries({ queryKey: ["drives"] }), cache.invalidateQueries({ queryKey: ["card"] })]);
  const put = async () => {
    setReport(null);
    setProblem(null);
    try {
      setReport(await api.putDown(job, release, drive, replace));
    } catch (error) {
      setProblem(error as Problem);
    }
    await refresh();
    done();
  };
  return (
    <>
      <DriveLine drive={drive} drives={drives} choose={choose} at={at} />
      <div className={css.lines}>
        <Press look="box" onClick={put}>
          Put it down
        </Press>
        <Checkbox
          label="replace what is there"
          checked={replace}
          onChange={(event) => setReplace(event.target.checked)}
        />
      </div>
      {problem && (
        <p className="stop" role="alert">
          {sentence(problem.line)}
        </p>
      )}
      {report && (
        <div role="status">
          <p className={report.whole ? "settled" : "stop"}>{sentence(report.says)}</p>
          {!report.whole && (
            <ul className={css.handed}>
              {report.files.map((file) => (
                <li key={file.name}>
                  {file.name}: {file.says}
                </li>
              ))}
            </ul>
          )}
        </div>
      )}
      {drive === "card" && <CardInSlot refresh={refresh} whole={report?.whole ?? false} />}
    </>
  );
}

interface DriveLineProps {
  drive: string;
  drives: Drive[];
  choose: (value: string) => void;
  at: Drive | undefined;
}

/** Which drive files are put down on, and its room. */
function DriveLine({ drive, drives, choose, at }: DriveLineProps) {
  return (
    <div className={css.lines}>
      <Choice
        label="Drive"
        value={drive}
        options={drives.map((one) => [one.id, one.name] as const)}
        choose={choose}
        width={180}
      />
      <span className="soft">{at?.there ? `room for ${bytes(at.room_bytes)}` : "not there"}</span>
    </div>
  );
}

/** The simulated card: how it behaves, what is on it, and its slot. */
function CardInSlot({ refresh, whole }: { refresh: () => Promise<unknown>; whole: boolean }) {
  const { data: card } = useQuery({ queryKey: ["card"], queryFn: api.card });
  if (!card) return null;
  const { settings } = card;
  const set = async (change: Partial<CardSettings>) => {
    await api.setCard({ ...settings, ...change });
    await refresh();
  };
  const use = (what: "eject" | "put-in" | "empty") => void api.useCard(what).then(refresh).catch(tell);
  const number = (text: string) => {
    const typed = typedNumber(text);
    if (typed < 0) throw new Problem(422, "number", `“${text.trim()}” is below zero`);
    return typed;
  };
  return (
    <div className={css.card}>
      <p>
        <b>Card, simulated</b> <span className="soft">it behaves as it is told here; no device is touched</span>
      </p>
      <CardSettingsList settings={settings} set={set} number={number} />
      <div className={css.lines}>
        <Checkbox
          label="write-protected"
          checked={settings.protected}
          onChange={(event) => void set({ protected: event.target.checked }).catch(tell)}
        />
        {settings.out ? (
          <Press look="box" onClick={() => use("put-in")}>
            Put it in
          </Press>
        ) : (
          <Press look="box" onClick={() => use("eject")}>
            {whole ? "Eject, all is down" : "Eject"}
          </Press>
        )}
        <Press className="link" onClick={() => use("empty")}>
          Empty it
        </Press>
      </div>
      <p className="soft">
        {settings.out ? "It is out of its slot. " : ""}
        {card.files.length
          ? `On it: ${card.files
              .map(([name]) => name)
              .slice(0, 5)
              .join(", ")}${card.files.length > 5 ? ` and ${card.files.length - 5} more` : ""}.`
          : "Nothing is on it."}
      </p>
    </div>
  );
}

/** What the simulated card can take. */
function CardSettingsList({
  settings,
  set,
  number,
}: {
  settings: CardSettings;
  set: (change: Partial<CardSettings>) => Promise<unknown>;
  number: (text: string) => number;
}) {
  return (
    <dl>
      <dt>holds, MB</dt>
      <dd>
        <TypedField
          value={String(settings.capacity! / 1e6)}
          label="The card holds, MB"
          width={84}
          commit={async (typed) => set({ capacity: Math.round(number(typed) * 1e6) })}
        />
      </dd>
      <dt>name, bytes</dt>
      <dd>
        <TypedField
          value={String(settings.longest_name)}
          label="Longest name, bytes"
          width={84}
          commit={async (typed) => set({ longest_name: number(typed) })}
        />
      </dd>
      <dt>pulled out after, kB</dt>
      <dd>
        <TypedField
          value={settings.pull_after == null ? "never" : String(settings.pull_after / 1000)}
          label="Pulled out after, kB"
          width={84}
          commit={async (typed) =>
            set({ pull_after: /^never$|^$/i.test(typed.trim()) ? null : Math.round(number(typed) * 1000) })
          }
        />
      </dd>
    </dl>
  );
}

function Send({ handle, release }: { handle: JobHandle; release: number }) {
  const { data: targets = [] } = useQuery({ queryKey: ["targets"], queryFn: api.targets });
  const [chosen, choose] = useState("");
  const [twice, setTwice] = useState(false);
  const target = targets.find((one) => one.name === chosen) ?? targets[0];
  if (!target) return null;
  const send = () => {
    handle
      .change(() => api.sendTo(handle.view.id, release, target.name, twice))
      .then(() => setTwice(false))
      .catch((problem: Problem) => {
        if (problem.code === "sent-already") setTwice(true);
        tell(problem);
      });
  };
  return (
    <>
      <div className={css.lines}>
        <Choice
          label="Program"
          value={target.name}
          options={targets.map((one) => [one.name, one.name] as const)}
          choose={choose}
          width={220}
        />
        <Press look="box" onClick={send}>
          {twice ? "Send again" : "Send"}
        </Press>
      </div>
      <p className="soft">
        {target.address}. A release goes as one ZIP; it is tried again where no answer comes, and never taken twice.
        {target.simulated ? " This program is simulated and ships with the app." : ""}
      </p>
    </>
  );
}
