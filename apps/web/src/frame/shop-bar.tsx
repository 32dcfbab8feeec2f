/** The bar above the pages of the whole shop. */
import { HelpCircle, Search } from 'lucide-react';
import { Link, NavLink } from 'react-router';
import { useShop } from '../api/shop.ts';
import { IconButton } from '../ui/button.tsx';
import { Mark } from '../ui/mark.tsx';
import { openKeySheet } from './key-sheet-open.ts';
import { openSearch } from './search-open.ts';

const PAGES = [
  ['/jobs', 'Jobs'],
  ['/queue', 'Queue'],
  ['/inbox', 'Inbox'],
  ['/stock', 'Stock'],
  ['/machines', 'Machines'],
  ['/backups', 'Backups'],
] as const;

export function ShopBar() {
  const needs = useShop((state) => (state.runs ?? []).filter((run) => run.state === 'needs-you').length);
  return (
    <header className="flex h-12 shrink-0 items-stretch border-b bg-paper">
      <Link to="/jobs" className="flex items-center gap-2.5 px-4 text-lg font-bold tracking-tight">
        <Mark /> Lorvek
      </Link>
      <nav aria-label="Shop" className="flex items-stretch">
        {PAGES.map(([to, name]) => (
          <NavLink
            key={to}
            to={to}
            className={({ isActive }) =>
              `relative flex items-center gap-2 border-r px-4 first:border-l ${isActive ? 'bg-sheet font-semibold after:absolute after:inset-x-0 after:bottom-0 after:h-[3px] after:bg-teal' : 'hover:bg-teal-wash'}`
            }
          >
            {name}
            {to === '/queue' && needs > 0 ? <span className="bg-amber px-1.5 text-xs text-sheet">{needs} needs you</span> : null}
          </NavLink>
        ))}
      </nav>
      <div className="flex flex-1 items-center justify-end gap-1 pr-3">
        <IconButton label="Search everything" keys="/" onClick={openSearch}>
          <Search size={16} />
        </IconButton>
        <IconButton label="Keys" keys="?" onClick={openKeySheet}>
          <HelpCircle size={16} />
        </IconButton>
      </div>
    </header>
  );
}
