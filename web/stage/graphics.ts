let software: boolean | undefined;

/** Whether the processor stands in for a graphics card. Asked for once a page. */
export function drawnBySoftware(): boolean {
  if (software === undefined) {
    const gl = document.createElement('canvas').getContext('webgl2');
    const name = String(
      gl?.getParameter(gl.getExtension('WEBGL_debug_renderer_info')?.UNMASKED_RENDERER_WEBGL ?? 7937) ?? '',
    );
    software = /swiftshader|llvmpipe|software/i.test(name);
    gl?.getExtension('WEBGL_lose_context')?.loseContext();
  }
  return software;
}
