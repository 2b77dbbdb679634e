# scalewort open
cli_open <- function(options, files) {
  check_desk_packages()
  folder <- if (is.null(options$out)) "." else options$out
  plan <- if (!is.null(options$demo)) demo_plan(options$demo, if (is.null(options$out)) paste0(options$demo, "-desk") else folder) else
    if (length(files) > 0) plan_to_open(files[1], folder)
  open_page(plan, folder, options$port, !options$no_browser, said = function(text) {
    cat(text, "\n", sep = "")
    flush(stdout())
  })
  exit_codes[["done"]]
}
