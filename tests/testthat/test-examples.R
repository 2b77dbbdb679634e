test_that("every example of the help pages runs", {
  pages <- tools::Rd_db("scalewort")
  skip_if(length(pages) == 0, "installed without help pages")
  ran <- 0
  for (page in names(pages)) {
    file <- withr::local_tempfile(fileext = ".R")
    tools::Rd2ex(pages[[page]], file)
    if (!file.exists(file)) next
    ran <- ran + 1
    expect_error(capture.output(source(file, local = new.env(), echo = FALSE)), NA, info = page)
  }
  expect_gt(ran, 15)
})

test_that("every exported verb has an example", {
  pages <- tools::Rd_db("scalewort")
  skip_if(length(pages) == 0, "installed without help pages")
  exported <- grep("^sw_", getNamespaceExports("scalewort"), value = TRUE)
  text <- lapply(pages, function(page) paste(as.character(page), collapse = ""))
  for (name in exported) {
    mine <- vapply(text, function(t) grepl(paste0("\\alias{", name, "}"), gsub("\\s", "", t), fixed = TRUE), TRUE)
    expect_true(any(mine), info = name)
    expect_match(text[mine][[1]], "\\examples", fixed = TRUE, info = name)
  }
})
