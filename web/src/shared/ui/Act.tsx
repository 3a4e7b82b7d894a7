import type { ComponentProps } from "react";
import { Link } from "react-router";
import "./Act.css";

interface Looks {
  /** The one that is most likely wanted next. */
  first?: boolean;
  small?: boolean;
}

interface ActProps extends Looks, ComponentProps<"button"> {
  /** It was pressed, and what it does is not done yet. */
  busy?: boolean;
}

/** A button. Plain HTML: the screens that must be there at once do not wait for a library of components. */
export function Act({ first, small, busy = false, disabled = false, ...button }: ActProps) {
  return <button type="button" {...button} className={looks({ first, small })} disabled={disabled || busy} aria-busy={busy} />;
}

/** A way to another screen that looks like a button. */
export function ActLink({ first, small, ...link }: Looks & ComponentProps<typeof Link>) {
  return <Link {...link} className={looks({ first, small })} />;
}

/** A file to be fetched. Without an address it is not there yet. */
export function ActFile({ first, small, href, children }: Looks & { href: string | undefined; children: React.ReactNode }) {
  if (href === undefined) return <Act first={first} small={small} disabled>{children}</Act>;
  return (
    <a href={href} className={looks({ first, small })}>
      {children}
    </a>
  );
}

function looks({ first, small }: Looks): string {
  return ["act", first && "act-first", small && "act-small"].filter(Boolean).join(" ");
}
