# Norms of the demo's subscales, from everyone's first wave. Run from the project's root.
library(scalewort)
scales <- tidy(sw_score(sw_demo("plotholders"), c("mean", "sum")), "scales")
out <- scales[c("score", "mean", "sd", "reliability", "n")]
out[2:4] <- lapply(out[2:4], round, 4)
write.csv(out, "inst/extdata/plotholders-norms.csv", row.names = FALSE, quote = FALSE)
