# Installs what the project needs and is not there yet; says so and ends at once
# when everything is. On Debian as root prebuilt packages are taken first
# (r-cran-..., pandoc); the rest, and everything elsewhere, comes from CRAN.
#
#   Rscript tools/setup.R            to use, test and demonstrate the package
#   Rscript tools/setup.R develop    besides: documentation and linter
#   Rscript tools/setup.R checks     besides: Chromium and what drives it, LibreOffice, a JSON Schema validator, a checker
#                                     of accessibility and PostgreSQL, for screenshots and the tests that look from outside

wanted_for <- commandArgs(trailingOnly = TRUE)

# data frame(package, least): what DESCRIPTION asks for.
described <- function(fields) {
  text <- read.dcf("DESCRIPTION", fields = fields)
  words <- trimws(unlist(strsplit(text[!is.na(text)], ",")))
  least <- ifelse(grepl("(", words, fixed = TRUE), sub("^.*>=\\s*([0-9.-]+).*$", "\\1", words), "0")
  out <- data.frame(package = sub("[ (\n].*$", "", words), least = least)
  base <- rownames(installed.packages(priority = "base"))
  out[!out$package %in% c("R", base) & !duplicated(out$package), ]
}

is_there <- function(package, least) {
  found <- suppressWarnings(tryCatch(utils::packageVersion(package), error = function(e) NULL))
  !is.null(found) && found >= least
}

lacking <- function(needs) needs[!mapply(is_there, needs$package, needs$least), ]

on_debian_as_root <- function() {
  file.exists("/etc/debian_version") && nzchar(Sys.which("apt-get")) && identical(unname(Sys.info()[["user"]]), "root")
}

run <- function(command, args) {
  message("$ ", command, " ", paste(args, collapse = " "))
  status <- system2(command, args, stdout = FALSE, env = "DEBIAN_FRONTEND=noninteractive")
  if (status != 0) message("  ended with status ", status)
  invisible(status == 0)
}

apt_candidate <- function(name) {
  text <- suppressWarnings(system2("apt-cache", c("policy", name), stdout = TRUE, stderr = FALSE))
  any(grepl("Candidate: [0-9]", text))
}

apt_install <- function(names) run("apt-get", c("install", "-y", "-qq", "--no-install-recommends", names))

# The library to write to; a personal one is made where the others are closed.
writable_library <- function() {
  open <- .libPaths()[file.access(.libPaths(), 2) == 0]
  if (length(open) > 0) {
    return(open[1])
  }
  personal <- Sys.getenv("R_LIBS_USER")
  dir.create(personal, recursive = TRUE, showWarnings = FALSE)
  .libPaths(c(personal, .libPaths()))
  personal
}

# What only some work needs stands among the suggested packages, too.
own <- c("develop", "checks", "large")
fields <- c("Imports", "LinkingTo", "Suggests", paste0("Config/Needs/", intersect(c("develop", "checks"), wanted_for), recycle0 = TRUE))
elsewhere <- described(paste0("Config/Needs/", setdiff(own, wanted_for)))$package
needs <- lacking(subset(described(fields), !package %in% elsewhere))
has_program <- function(name) nzchar(Sys.which(name))
# Any Python that has the module of a Debian package of its name.
has_module <- function(name) {
  pythons <- unique(c("/usr/bin/python3", Sys.which("python3")))
  asked <- paste0("'import ", sub("^python3-", "", name), "'")
  any(vapply(pythons[file.exists(pythons)], function(p) system2(p, c("-c", asked), stdout = FALSE, stderr = FALSE) == 0, TRUE))
}
programs <- list(pandoc = has_program)
# The core's own tests; elsewhere they are skipped without it.
if (on_debian_as_root()) programs$`doctest-dev` <- function(name) file.exists("/usr/include/doctest/doctest.h")
if ("develop" %in% wanted_for) programs <- c(programs, qpdf = has_program)
if ("checks" %in% wanted_for) {
  programs <- c(programs,
    `libpq-dev` = function(name) file.exists("/usr/include/postgresql/libpq-fe.h") || has_program("pg_config"),
    postgresql = function(name) has_program("initdb") || length(Sys.glob("/usr/lib/postgresql/*/bin/initdb")) > 0,
    chromium = has_program, `python3-jsonschema` = has_module, `python3-openpyxl` = has_module, `python3-docx` = has_module,
    `libreoffice-writer-nogui` = function(name) nzchar(Sys.which("soffice")), `poppler-utils` = function(name) nzchar(Sys.which("pdftotext")))
}
# From the npm registry, into the checkout.
accessibility_checker <- ".checks/node_modules/axe-core/axe.min.js"
if ("checks" %in% wanted_for) programs$npm <- function(name) file.exists(accessibility_checker) || has_program(name)
lacks_checker <- function() "checks" %in% wanted_for && !file.exists(accessibility_checker)
absent <- function() names(programs)[!mapply(function(there, name) there(name), programs, names(programs))]

if (nrow(needs) == 0 && length(absent()) == 0 && !lacks_checker()) {
  message("Set-up: everything is there.")
  quit(status = 0)
}
if (on_debian_as_root()) {
  run("apt-get", c("update", "-qq"))
  debian <- paste0("r-cran-", tolower(needs$package))
  have <- vapply(debian, apt_candidate, TRUE)
  if (any(have) || length(absent()) > 0) apt_install(c(debian[have], absent()))
}
rest <- lacking(needs)
if (nrow(rest) > 0) {
  if (identical(unname(getOption("repos")["CRAN"]), "@CRAN@")) options(repos = c(CRAN = "https://cloud.r-project.org"))
  library_path <- writable_library()
  message("From CRAN: ", paste(rest$package, collapse = ", "))
  utils::install.packages(rest$package, lib = library_path, quiet = TRUE, Ncpus = max(1L, parallel::detectCores()))
}
if (lacks_checker()) run("npm", c("install", "--silent", "--no-audit", "--no-fund", "--prefix", ".checks", "axe-core@4"))
rest <- lacking(needs)
closed <- c(absent(), if (lacks_checker()) "axe-core")
if (nrow(rest) > 0 || length(closed) > 0) {
  message("Set-up could not install: ", paste(c(rest$package, closed), collapse = ", "))
  quit(status = 1)
}
message("Set-up: done.")
