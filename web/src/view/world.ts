/** The ground of the whole world: the plot, and the rings of far land about it. */
import { type Field, heightAt } from "./field";
import type { Products } from "./products";

/** The fields of heights, the finest first. */
export function fieldsOf(products: Products): Field[] {
  return [products.field, ...products.rings.map((ring) => ring.field)];
}

/** Whether a place lies within a field. */
export function within(f: Field, east: number, north: number): boolean {
  const x = (east - f.east) / f.spacing;
  const y = (north - f.north) / f.spacing;
  return x >= 0 && y >= 0 && x <= f.nx - 1 && y <= f.ny - 1;
}

/** Height of the finest field that holds a place; beyond all, that of the plot's edge. */
export function heightAmong(fields: Field[], east: number, north: number): number {
  return heightAt(fields.find((f) => within(f, east, north)) ?? fields[0], east, north);
}

/** Height of the ground at a place, on the plot or beyond it, m. */
export const groundAt = (products: Products, east: number, north: number): number =>
  heightAmong(fieldsOf(products), east, north);
