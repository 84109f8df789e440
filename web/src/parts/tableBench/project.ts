/** A surface over two axes, turned and seen from somewhat above, without a library: plain quads. */

export interface View {
    /** Turn about the upright axis and tilt towards the eye. [radians] */
    turn: number;
    tilt: number;
}

export interface Point2 {
    x: number;
    y: number;
    /** Larger is farther from the eye. */
    depth: number;
}

/** Return where a point of the unit cube (u right, v away, h up) stands on a picture of unit size. */
export function project(u: number, v: number, h: number, view: View): Point2 {
    const x = u - 0.5;
    const z = v - 0.5;
    const sin = Math.sin(view.turn);
    const cos = Math.cos(view.turn);
    const right = x * cos - z * sin;
    const away = x * sin + z * cos;
    const up = (h - 0.5) * 0.62;
    return {
        x: right,
        y: -(up * Math.cos(view.tilt) + away * Math.sin(view.tilt)),
        depth: away * Math.cos(view.tilt) - up * Math.sin(view.tilt),
    };
}

export interface Quad {
    corners: [Point2, Point2, Point2, Point2];
    /** Mean height of its corners, 0 to 1. */
    height: number;
    row: number;
    column: number;
    depth: number;
}

/** Return the quads of a surface, the farthest first. Places along the axes run from 0 to 1. */
export function quads(down: readonly number[], across: readonly number[], heights: readonly (readonly number[])[], view: View): Quad[] {
    const grid = heights.map((line, i) => line.map((h, j) => project(across[j] ?? 0, down[i] ?? 0, h, view)));
    const result: Quad[] = [];
    for (let i = 0; i + 1 < grid.length; i += 1) {
        for (let j = 0; j + 1 < (grid[i]?.length ?? 0); j += 1) {
            const corners = [grid[i]?.[j], grid[i]?.[j + 1], grid[i + 1]?.[j + 1], grid[i + 1]?.[j]] as Quad['corners'];
            const at = [heights[i]?.[j], heights[i]?.[j + 1], heights[i + 1]?.[j + 1], heights[i + 1]?.[j]] as number[];
            result.push({
                corners,
                height: at.reduce((sum, h) => sum + h, 0) / 4,
                row: i,
                column: j,
                depth: corners.reduce((sum, corner) => sum + corner.depth, 0) / 4,
            });
        }
    }
    return result.sort((a, b) => b.depth - a.depth);
}
