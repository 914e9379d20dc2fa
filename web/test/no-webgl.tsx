// Stands in for the packages that draw, where there is nothing to draw on: a canvas that shows none of its children.
export const Canvas = () => <div data-testid="canvas" />;
export const OrbitControls = () => null;
export const TransformControls = () => null;
export const useFrame = (): void => undefined;
export const useThree = (): Record<string, unknown> => ({ invalidate: () => undefined });
export const addAfterEffect = () => (): void => undefined;
