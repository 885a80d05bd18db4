export declare const builtServer: string
export declare const builtRestore: string
export declare function needServer(): Promise<void>
export declare function needPages(): void
