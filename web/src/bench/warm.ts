let context: WebGL2RenderingContext | null = null;

/**
 * Let the browser start its drawing process while a file is still on its way; the first picture waits for it
 * otherwise. The context is given back when the bench has one of its own.
 */
export function warmUp(): void {
  context ??= document.createElement("canvas").getContext("webgl2");
  context?.clear(context.COLOR_BUFFER_BIT);
}

export function cooled(): void {
  context?.getExtension("WEBGL_lose_context")?.loseContext();
  context = null;
}
