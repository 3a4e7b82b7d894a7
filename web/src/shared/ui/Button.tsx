import type { ComponentProps } from "react";
import { Link } from "react-router";
import "./Button.css";

interface Looks {
  /** The one that is most likely wanted next. */
  first?: boolean;
  small?: boolean;
}

interface ButtonProps extends Looks, ComponentProps<"button"> {
  /** It was pressed, and what it does is not done yet. */
  busy?: boolean;
}

/** A button. Plain HTML: the screens that must be there at once do not wait for a library of components. */
export function Button({ first, small, busy = false, disabled = false, ...button }: ButtonProps) {
  return <button type="button" {...button} className={looks({ first, small })} disabled={disabled || busy} aria-busy={busy} />;
}

/** A way to another screen that looks like a button. */
export function LinkButton({ first, small, ...link }: Looks & ComponentProps<typeof Link>) {
  return <Link {...link} className={looks({ first, small })} />;
}

/** A file to be fetched. Without an address it is not there yet. */
export function FileButton({ first, small, href, children }: Looks & { href: string | undefined; children: React.ReactNode }) {
  if (href === undefined) return <Button first={first} small={small} disabled>{children}</Button>;
  return (
    <a href={href} className={looks({ first, small })}>
      {children}
    </a>
  );
}

function looks({ first, small }: Looks): string {
  return ["button", first && "button-first", small && "button-small"].filter(Boolean).join(" ");
}
