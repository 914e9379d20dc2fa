// What has no modules of its own for each file reads TypeScript as the rest of the application does, beside Jest's own transform.
import { register } from 'tsx/esm/api';

register();
