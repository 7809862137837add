import './masthead.css';

import { Button, type ButtonProps } from '@mui/material';
import { useEffect, type ComponentProps, type ReactNode } from 'react';
import { NavLink, useLocation } from 'react-router';

import { AccountMenu } from './AccountMenu';

const RAYS =
  'M17.2 3l-1.2 2.1M21 6.8l-2.1 1.2M21 17.2l-2.1-1.2M17.2 21l-1.2-2.1M6.8 21l1.2-2.1M3 17.2l2.1-1.2M3 6.8l2.1 1.2M6.8 3l1.2 2.1';

/** The ink bar on top of every screen; `children` are the screen's own actions, `title` names it to the browser. */
export function Masthead({ title, children }: { title: string; children?: ReactNode }) {
  useTitle(title);
  const onBoard = /^\/(board|editions|schedules|history|mail)/.test(useLocation().pathname);
  return (
    <header className="mast">
      <NavLink to="/" className="word" aria-label="Kalendor">
        <Brand />
      </NavLink>
      <nav aria-label="Screens">
        <NavLink to="/board" className={onBoard ? 'active' : ''}>
          Board
        </NavLink>
        <NavLink to="/reports">Reports</NavLink>
        <NavLink to="/sources">Sources</NavLink>
        <NavLink to="/groupings">Groupings</NavLink>
      </nav>
      <span className="grow" />
      <div className="actions">{children}</div>
      <AccountMenu />
    </header>
  );
}

/** Name the screen in the browser's tab and history. */
export function useTitle(title: string) {
  useEffect(() => {
    document.title = title ? `${title} · Kalendor` : 'Kalendor';
  }, [title]);
}

/** The product's sign and name. */
export const Brand = () => (
  <>
    <svg width="22" height="22" viewBox="0 0 24 24" aria-hidden="true" strokeLinecap="round">
      <path stroke="#E4A83B" strokeWidth="2.2" d="M12 1.5v4M12 18.5v4M1.5 12h4M18.5 12h4" />
      <path stroke="#8FA1A6" strokeWidth="1.6" d={RAYS} />
    </svg>
    Kalendor
  </>
);

/** A screen's one main action, in marigold. */
export function MainButton(props: ButtonProps) {
  return <Button variant="contained" color="secondary" sx={{ px: 1.75, py: 0.6, fontSize: 13 }} {...props} />;
}

/** Any other action on the ink bar. */
export const GhostButton = (props: ComponentProps<'button'>) => (
  <button type="button" className="ghost" {...props} />
);

/** A way to another screen, or (`href`) to a file in a window of its own. */
export const GhostLink = ({
  to,
  href,
  title,
  children,
}: {
  to?: string;
  href?: string;
  title?: string;
  children: ReactNode;
}) =>
  to ? (
    <NavLink className="ghost" title={title} to={to}>
      {children}
    </NavLink>
  ) : (
    <a className="ghost" title={title} href={href ?? ''} target="_blank" rel="noreferrer">
      {children}
    </a>
  );
