/** Text for screen readers that sighted people see otherwise. */
export const visuallyHidden = {
    position: 'absolute',
    width: '1px',
    height: '1px',
    m: '-1px',
    p: 0,
    overflow: 'hidden',
    clip: 'rect(0 0 0 0)',
    whiteSpace: 'nowrap',
    border: 0,
} as const;
