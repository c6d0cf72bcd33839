// Where the core and the pose models are: addresses that name what is in them.
declare const __CORE__: string;
declare const __POSE__: string;
