import { parentPort } from 'node:worker_threads';
import { serveKernel } from '../core/solvers/warp/kernel';

// Serves until the host ends this thread.
parentPort?.on('message', (memory: WebAssembly.Memory) => serveKernel(memory));
