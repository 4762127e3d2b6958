/** What the window shows of the sheet: centre in mm, and pixels a mm. */
class Viewport {
  width = $state(800);
  height = $state(600);
  cx = $state(210);
  cy = $state(148);
  k = $state(2);
  /** Once a hand has zoomed or moved the sheet, a change of the window leaves it as it is. */
  touched = false;

  /** A pixel in mm. */
  px = $derived(1 / this.k);
  box = $derived(
    `${this.cx - this.width / 2 / this.k} ${this.cy - this.height / 2 / this.k} ${this.width / this.k} ${this.height / this.k}`,
  );

  /** A place of the window (pixels) on the sheet. */
  sheet(x: number, y: number): [number, number] {
    return [this.cx + (x - this.width / 2) / this.k, this.cy + (y - this.height / 2) / this.k];
  }

  /** A place of the sheet in the window. */
  window(x: number, y: number): [number, number] {
    return [(x - this.cx) * this.k + this.width / 2, (y - this.cy) * this.k + this.height / 2];
  }

  /** Where a box of the sheet stands in the window, as style. */
  style(x: number, y: number, width: number, height: number): string {
    const [left, top] = this.window(x, y);
    return `left:${left}px;top:${top}px;width:${width * this.k}px;height:${height * this.k}px`;
  }

  /** Show all of a sheet of that size. */
  whole(width: number, height: number) {
    this.touched = false;
    this.cx = width / 2;
    this.cy = height / 2;
    this.k = Math.min((this.width - 36) / width, (this.height - 28) / height);
  }

  /** Zoom about a point of the window, or its middle. */
  zoom(by: number, x = this.width / 2, y = this.height / 2) {
    this.touched = true;
    const next = Math.min(120, Math.max(0.2, this.k * by));
    this.cx += (x - this.width / 2) * (1 / this.k - 1 / next);
    this.cy += (y - this.height / 2) * (1 / this.k - 1 / next);
    this.k = next;
  }

  /** Move what is shown by so many pixels. */
  pan(dx: number, dy: number) {
    this.touched = true;
    this.cx -= dx / this.k;
    this.cy -= dy / this.k;
  }
}

export const viewport = new Viewport();
