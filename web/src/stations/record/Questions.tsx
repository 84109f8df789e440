import Alert from '@mui/material/Alert';
import Button from '@mui/material/Button';
import Stack from '@mui/material/Stack';
import Typography from '@mui/material/Typography';

import type { Mapping, Preview } from './preview';

interface Props {
    questions: Preview['questions'];
    onAnswer: (mapping: Mapping) => void;
}

/** What has to be decided before a log is read: two readings are possible, and one tap chooses. */
export function Questions({ questions, onAnswer }: Props) {
    return (
        <Stack spacing={1}>
            {questions.map((question) => (
                <Alert key={question.text} severity="warning" variant="outlined" sx={{ color: 'text.primary' }}>
                    <Typography sx={{ mb: 1 }}>{question.text}</Typography>
                    <Stack direction="row" sx={{ gap: 1, flexWrap: 'wrap' }}>
                        {question.choices.map((choice) => (
                            <Button
                                key={choice.label}
                                variant="outlined"
                                sx={{ minHeight: 44 }}
                                onClick={() => onAnswer(choice.mapping)}
                            >
                                {choice.label}
                            </Button>
                        ))}
                    </Stack>
                </Alert>
            ))}
        </Stack>
    );
}
