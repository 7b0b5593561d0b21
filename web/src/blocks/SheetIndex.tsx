import { useEffect, useState, type RefObject } from "react";
import css from "./SheetIndex.module.css";

/** From so many sections on, a sheet that does not fit into the window has an index. */
const FEWEST = 4;

interface Index {
  names: string[];
  current: string;
}

const NONE: Index = { names: [], current: "" };

/** The sections of a sheet, those within another left out. */
const sectionsOf = (sheet: HTMLElement) =>
  [...sheet.querySelectorAll<HTMLElement>("section[aria-label]")].filter(
    (section) => !section.parentElement!.closest("section"),
  );

function indexOf(sheet: HTMLElement): Index {
  const sections = sectionsOf(sheet);
  if (sections.length < FEWEST || sheet.scrollHeight < 1.3 * sheet.clientHeight) return NONE;
  const line = sheet.getBoundingClientRect().top + sheet.clientHeight / 3;
  const passed = sections.filter((section) => section.getBoundingClientRect().top <= line);
  const name = (section: HTMLElement) => section.getAttribute("aria-label")!;
  return { names: sections.map(name), current: name(passed.at(-1) ?? sections[0]!) };
}

/** The sections of a long sheet, always in sight; each leads to one. */
export function SheetIndex({ sheet }: { sheet: RefObject<HTMLElement | null> }) {
  const index = useIndex(sheet);
  if (!index.names.length) return null;
  const lead = (name: string) => {
    const section = sectionsOf(sheet.current!).find((one) => one.getAttribute("aria-label") === name);
    section?.scrollIntoView({ block: "start" });
    section?.setAttribute("tabindex", "-1");
    section?.focus({ preventScroll: true });
  };
  return (
    <nav className={css.index} aria-label="On this sheet">
      {index.names.map((name) => (
        <a
          key={name}
          href="#sheet"
          aria-current={name === index.current ? "location" : undefined}
          onClick={(event) => {
            event.preventDefault();
            lead(name);
          }}
        >
          {name}
        </a>
      ))}
    </nav>
  );
}

function useIndex(sheet: RefObject<HTMLElement | null>): Index {
  const [index, show] = useState(NONE);
  useEffect(() => {
    const element = sheet.current;
    if (!element) return;
    let frame = 0;
    const look = () => {
      frame = 0;
      const now = indexOf(element);
      show((known) => (JSON.stringify(known) === JSON.stringify(now) ? known : now));
    };
    const soon = () => {
      frame ||= requestAnimationFrame(look);
    };
    const changes = new MutationObserver(soon);
    changes.observe(element, { childList: true, subtree: true });
    const size = new ResizeObserver(soon);
    size.observe(element);
    element.addEventListener("scroll", soon, { passive: true });
    soon();
    return () => {
      cancelAnimationFrame(frame);
      changes.disconnect();
      size.disconnect();
      element.removeEventListener("scroll", soon);
    };
  }, [sheet]);
  return index;
}
