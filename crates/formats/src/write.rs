//! Writing values back in the formats that they may come in.
