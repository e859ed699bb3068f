export interface Pose {
  east: number;
  north: number;
  up: number;
  bearing: number;
  tilt: number;
  focal: number;
}
