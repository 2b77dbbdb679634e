# Fails on any lint.
found <- lintr::lint_package(".", exclusions = list("R/RcppExports.R"))
print(found)
cat(length(found), "lints\n")
quit(status = if (length(found) > 0) 1 else 0)
