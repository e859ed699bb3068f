/** Waiting for what was given to the renderer, without holding the page's thread. */

const ASK_MS = 4;

export class Fence {
  constructor(private readonly gl: WebGL2RenderingContext) {}

  /** Ends when all that was given so far is drawn; gives the ms that it took from now on. */
  drawn(): Promise<number> {
    const gl = this.gl;
    const began = performance.now();
    const sync = gl.fenceSync(gl.SYNC_GPU_COMMANDS_COMPLETE, 0);
    gl.flush();
    return new Promise((done) => {
      const ask = () => {
        const over = !sync || gl.isContextLost();
        if (!over && gl.getSyncParameter(sync, gl.SYNC_STATUS) !== gl.SIGNALED) {
          setTimeout(ask, ASK_MS);
          return;
        }
        gl.deleteSync(sync);
        done(performance.now() - began);
      };
      setTimeout(ask, 0);
    });
  }
}
