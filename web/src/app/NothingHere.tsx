import Typography from '@mui/material/Typography';
import { Link } from 'react-router';

/** An address that leads nowhere. */
export function NothingHere() {
    return (
        <Typography sx={{ p: 4 }}>
            There is nothing at this address. Go to the <Link to="/">shop board</Link>.
        </Typography>
    );
}
