import { Component, type ReactNode } from "react";
import css from "./Guard.module.css";
import { Press } from "./Press";

interface CatchFaultProps {
  children: ReactNode;
  /** What is shown in place of what has stopped; ``again`` tries once more. */
  instead: (fault: Error, again: () => void) => ReactNode;
}

/** Catches a fault in what it holds, and shows something else instead. */
class CatchFault extends Component<CatchFaultProps, { fault: Error | null }> {
  override state = { fault: null as Error | null };

  static getDerivedStateFromError(fault: Error) {
    return { fault };
  }

  override render() {
    const { fault } = this.state;
    return fault ? this.props.instead(fault, () => this.setState({ fault: null })) : this.props.children;
  }
}

/** Catches a fault in a page. The job is kept by the server at every step, so that reloading loses nothing. */
export function Guard({ children }: { children: ReactNode }) {
  return (
    <CatchFault
      instead={(fault) => (
        <div className={css.guard} role="alert">
          <h1>This page has stopped</h1>
          <p>The fault is ours. Your job is kept as it was after your last step; nothing is lost.</p>
          <p className="soft">{fault.message}</p>
          <Press onClick={() => window.location.reload()}>Reload the page</Press>
        </div>
      )}
    >
      {children}
    </CatchFault>
  );
}

interface PartGuardProps {
  /** What has stopped, and what goes on without it. */
  says: string;
  children: ReactNode;
}

/** Catches a fault in a part of a page, so that the rest goes on. */
export function PartGuard({ says, children }: PartGuardProps) {
  return (
    <CatchFault
      instead={(fault, again) => (
        <div className={css.part} role="alert">
          <p>{says}</p>
          <p className="soft">{fault.message}</p>
          <Press look="box" onClick={again}>
            Try again
          </Press>
        </div>
      )}
    >
      {children}
    </CatchFault>
  );
}
