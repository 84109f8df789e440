/** Two short tones a second, as long as it is not stopped. */
export class Alarm {
    private readonly context = new AudioContext();
    private readonly timer: number;

    constructor() {
        this.tone();
        this.timer = window.setInterval(() => this.tone(), 500);
    }

    stop(): void {
        window.clearInterval(this.timer);
        void this.context.close();
    }

    private tone(): void {
        const tone = this.context.createOscillator();
        const volume = this.context.createGain();
        volume.gain.value = 0.12;
        tone.frequency.value = 880;
        tone.connect(volume).connect(this.context.destination);
        tone.start();
        tone.stop(this.context.currentTime + 0.18);
    }
}
