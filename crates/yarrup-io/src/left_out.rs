//! What is told of what a build leaves out.
//!
//! The stacks behind office documents, the network, databases and Parquet are most of what is compiled. Whoever works on the rest can do without: beside
//! each stands a module that knows what is meant, and does nothing.

/// What is told of something that this build leaves out, and the feature that would bring it.
pub(crate) fn told(what: &str, feature: &str) -> String {
    format!("this yarrup was built without {what}; build it with `--features {feature}`")
}
