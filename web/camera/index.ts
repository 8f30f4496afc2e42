export { CameraButton, CameraStrip } from './camera.tsx';
