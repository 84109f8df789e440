/** The sound of the bench engine: pulses at the firing rate, louder with more air. */
export class EngineSound {
    private readonly context = new AudioContext();
    private readonly firing = this.context.createOscillator();
    private readonly body = this.context.createBiquadFilter();
    private readonly volume = this.context.createGain();

    constructor() {
        this.firing.type = 'sawtooth';
        this.body.type = 'lowpass';
        this.body.Q.value = 3;
        this.volume.gain.value = 0;
        this.firing.connect(this.body).connect(this.volume).connect(this.context.destination);
        this.firing.start();
    }

    /** Follow speed, firings per turn and manifold pressure. */
    set(rpm: number, firesPerTurn: number, mapKpa: number): void {
        const now = this.context.currentTime;
        const rate = (rpm / 60) * firesPerTurn;
        this.firing.frequency.setTargetAtTime(Math.max(1, rate), now, 0.03);
        this.body.frequency.setTargetAtTime(140 + rate * 4, now, 0.05);
        this.volume.gain.setTargetAtTime(rpm < 20 ? 0 : 0.05 + 0.1 * Math.min(1, mapKpa / 100), now, 0.05);
    }

    stop(): void {
        void this.context.close();
    }
}
