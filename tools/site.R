# The documentation as a site of plain pages in site/: the README, the vignettes, the reference
# and the glossary of figures. Offline; needs rmarkdown and pandoc.
library(scalewort)
site <- "site"
unlink(site, recursive = TRUE)
dir.create(file.path(site, "reference"), recursive = TRUE)
style <- system.file("report", "report.css", package = "scalewort")

page <- function(title, body, path, up = "") {
  writeLines(c(
    "<!DOCTYPE html>", "<html lang=\"en\" data-theme=\"auto\"><head><meta charset=\"utf-8\">",
    "<meta name=\"viewport\" content=\"width=device-width, initial-scale=1\">", paste0("<title>", title, "</title><style>"),
    readLines(style), "</style></head><body>",
    sprintf("<nav><ul><li><a href=\"%sindex.html\">scalewort</a></li><li><a href=\"%sreference/index.html\">Reference</a></li>", up, up),
    sprintf("<li><a href=\"%sfigures.html\">Figures and bounds</a></li></ul></nav><main>", up), body, "</main></body></html>"
  ), path)
}

pandoc_body <- function(file) {
  out <- tempfile(fileext = ".html")
  rmarkdown::pandoc_convert(normalizePath(file), to = "html", from = "gfm", output = out)
  readLines(out, warn = FALSE)
}

vignettes <- list.files("vignettes", "[.]Rmd$", full.names = TRUE)
names <- tools::file_path_sans_ext(basename(vignettes))
for (file in vignettes) rmarkdown::render(file, output_dir = site, quiet = TRUE, envir = new.env())
titles <- vapply(vignettes, function(file) rmarkdown::yaml_front_matter(file)$title, "")
links <- paste0("<ul>", paste0("<li><a href=\"", names, ".html\">", titles, "</a></li>", collapse = ""), "</ul>")
dir.create(file.path(site, "docs"))
invisible(file.copy("docs/screenshots", file.path(site, "docs"), recursive = TRUE))
page("scalewort", c(pandoc_body("README.md"), "<h2>Guides</h2>", links), file.path(site, "index.html"))
page("Figures and bounds", pandoc_body("docs/figures.md"), file.path(site, "figures.html"))

topics <- list.files("man", "[.]Rd$", full.names = TRUE)
for (file in topics) {
  out <- tempfile()
  tools::Rd2HTML(file, out = out, package = "scalewort", stages = c("build", "install", "render"))
  html <- readLines(out, warn = FALSE)
  inside <- html[seq(grep("<body>", html)[1] + 1, grep("</body>", html)[1] - 1)]
  page(tools::file_path_sans_ext(basename(file)), inside, file.path(site, "reference", sub("[.]Rd$", ".html", basename(file))), "../")
}
about <- vapply(topics, function(file) {
  rd <- tools::parse_Rd(file)
  paste(unlist(rd[[which(vapply(rd, function(part) identical(attr(part, "Rd_tag"), "\\title"), TRUE))]]), collapse = "")
}, "")
entries <- tools::file_path_sans_ext(basename(topics))
page("Reference", paste0("<h1>Reference</h1><ul>", paste0("<li><a href=\"", entries, ".html\"><code>", entries, "</code></a> ", about, "</li>",
  collapse = ""), "</ul>"), file.path(site, "reference", "index.html"), "../")
cat("Open", file.path(site, "index.html"), "\n")
