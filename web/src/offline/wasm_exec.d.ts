// Go's own glue, copied from the toolchain when the core is built.
export {};
