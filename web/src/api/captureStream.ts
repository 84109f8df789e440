import { ApiProblem, csrfToken, type Capture, type Problem, type Schemas } from './client';

export interface Progress {
    doing: string;
    share: number;
    rows: number;
}

interface Line extends Partial<Progress> {
    capture?: Capture;
    problem?: Problem;
}

/** Read a kept upload: progress as it goes, at the end the capture. Aborting writes nothing. */
export async function readCapture(
    jobId: number,
    body: Schemas['ReadIn'],
    onProgress: (progress: Progress) => void,
    signal: AbortSignal,
): Promise<Capture> {
    const response = await fetch(`/api/jobs/${jobId}/captures/read`, {
        method: 'POST',
        headers: { 'Content-Type': 'application/json', 'X-CSRFToken': csrfToken() },
        body: JSON.stringify(body),
        signal,
    });
    if (!response.ok || !response.body) throw new ApiProblem((await response.json()) as Problem);
    const reader = response.body.getReader();
    const decoder = new TextDecoder();
    let text = '';
    for (;;) {
        const { done, value } = await reader.read();
        text += decoder.decode(value, { stream: !done });
        const lines = text.split('\n');
        text = lines.pop() ?? '';
        for (const raw of lines.filter(Boolean)) {
            const line = JSON.parse(raw) as Line;
            if (line.problem) throw new ApiProblem(line.problem);
            if (line.capture) return line.capture;
            onProgress({ doing: line.doing ?? '', share: line.share ?? 0, rows: line.rows ?? 0 });
        }
        if (done) throw new Error('The server stopped in the middle of the file. Choose it again.');
    }
}
