library(testthat)
library(scalewort)

test_check("scalewort")
