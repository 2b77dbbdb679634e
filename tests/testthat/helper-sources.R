# Where the sources stand beside the tests; NULL where only the installed package is.
source_folder <- function() {
  for (folder in c("../../R", "../../00_pkg_src/scalewort/R")) {
    if (dir.exists(folder)) return(folder)
  }
  NULL
}
