import type { Directive } from 'vue'

/** Gives each cell of a table but the first its column's name, for a narrow screen that has no room for a head. */
function nameCells(table: HTMLTableElement): void {
  const names = [...table.querySelectorAll('thead th')].map((head) => head.textContent?.trim() ?? '')
  for (const row of table.querySelectorAll('tbody tr')) {
    if (row.children.length !== names.length) continue
    for (const [column, cell] of [...row.children].entries())
      if (column > 0 && names[column] && !cell.hasAttribute('data-first'))
        cell.setAttribute('data-col', names[column])
  }
}

/** `v-columns` on a table: its rows follow as they change. */
export const namedColumns: Directive<HTMLElement> = {
  mounted: (table) => nameCells(table as HTMLTableElement),
  updated: (table) => nameCells(table as HTMLTableElement),
}
