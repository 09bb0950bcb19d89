/** What a picture runs along with. */
export interface Pace {
  playing: boolean;
  /** Times real time; backward when negative. */
  speed: number;
  /** Seconds of the picture that belong to what is heard at a moment of `performance.now`; undefined while nobody knows. */
  at: (moment: number) => number | undefined;
  /** Seconds of the picture at which it stands while it does not run: the middle of a frame. */
  still: number;
  /** Told by how many seconds a frame came behind what was heard with it. */
  onFrame?: (late: number) => void;
}

/** Seconds from which on it is set anew; less than that it catches up, or waits. */
const ASTRAY = 0.12;
/** How much faster or slower it runs to be in step again, at the most, and by how much for each second that it is apart. */
const [MOST, EACH] = [0.25, 4];
/** Closer to an end than this it is at the end. Seconds. */
const END = 0.02;

/**
 * Keeps a video in step with the scene: the engine is the clock. Standing, the picture is set to its frame; running, it runs along and catches up
 * where it is apart; backward, it is set from frame to frame as fast as it can show them.
 * @returns what has to be called whenever the pace has changed, and at the end
 */
export function keepInStep(video: HTMLVideoElement, pace: () => Pace): { turn: () => void; end: () => void } {
  let frame = 0;
  let watched = 0;
  let ended = false;

  function set(seconds: number): void {
    // One that is still on its way to a frame is asked again when it is there.
    if (video.seeking || Math.abs(video.currentTime - seconds) < 0.0005) return;
    video.currentTime = Math.max(0, Math.min(video.duration || 0, seconds));
  }

  function run(): void {
    cancelAnimationFrame(frame);
    if (ended) return;
    const { playing, speed, at, still } = pace();
    if (video.readyState === 0) return;
    if (!playing) {
      if (!video.paused) video.pause();
      return set(still);
    }
    frame = requestAnimationFrame(run);
    const wanted = at(performance.now());
    if (wanted === undefined) return;
    const outside = wanted < 0 || wanted > video.duration - END;
    if (speed < 0 || outside) {
      if (!video.paused) video.pause();
      return set(wanted);
    }
    const apart = video.currentTime - wanted;
    if (Math.abs(apart) > ASTRAY * Math.max(1, speed)) set(wanted);
    const turn = Math.max(-MOST, Math.min(MOST, -apart * EACH));
    video.playbackRate = Math.max(0.0625, Math.min(16, speed * (1 + turn)));
    if (video.paused) void video.play().catch(() => undefined);
  }

  function watch(): void {
    if (ended || !('requestVideoFrameCallback' in video)) return;
    watched = video.requestVideoFrameCallback((_, { mediaTime, expectedDisplayTime }) => {
      const { playing, speed, at, onFrame } = pace();
      const heard = playing && speed === 1 && !video.seeking ? at(expectedDisplayTime) : undefined;
      if (heard !== undefined) onFrame?.(heard - mediaTime);
      watch();
    });
  }
  watch();
  video.addEventListener('seeked', run);
  run();
  return {
    turn: run,
    end: () => {
      ended = true;
      cancelAnimationFrame(frame);
      video.removeEventListener('seeked', run);
      if (watched) video.cancelVideoFrameCallback(watched);
    },
  };
}
