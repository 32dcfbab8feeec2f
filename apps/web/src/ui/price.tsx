/** A price in the shop's own money. */
import { describePrice, USUAL_SETTINGS } from '@lorvek/model';
import { useShop } from '../api/shop.ts';

export function Price({ of }: { of: number }) {
  const settings = useShop((state) => state.settings) ?? USUAL_SETTINGS;
  return <>{describePrice(of, settings)}</>;
}
