import { Popover, UnstyledButton } from "@mantine/core";
import css from "./House.module.css";
import { WORDS, type Word } from "./words";

/** A word of ours, where it is met first: a press opens its line. */
export function Term({ of, children = of }: { of: Word; children?: string }) {
  return (
    <Popover width={280} position="bottom-start" shadow={undefined} transitionProps={{ duration: 0 }} withRoles>
      <Popover.Target>
        <UnstyledButton
          data-term
          className={css.term}
          title={WORDS[of]}
          aria-label={children === of ? `${of}: what is that?` : `${children} (what is ${of}?)`}
        >
          {children}
        </UnstyledButton>
      </Popover.Target>
      <Popover.Dropdown>
        <div className={css.meaning}>
          <b>{of}</b> {WORDS[of]}
        </div>
      </Popover.Dropdown>
    </Popover>
  );
}
