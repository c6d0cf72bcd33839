export const frameURL = (clip: string, frame: number, width = 0) => `/api/clips/${clip}/frames/${frame}?width=${width}`;

export const posterURL = (clip: string, seed = "") => `/api/clips/${clip}/poster.jpg?${seed}`;

export const proxyURL = (clip: string) => `/api/clips/${clip}/proxy.mp4`;
