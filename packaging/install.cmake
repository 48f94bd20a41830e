# What is installed, and where it is expected.
install(TARGETS yarngap yarngap-cli yarngap-demo RUNTIME DESTINATION ${CMAKE_INSTALL_BINDIR})
install(TARGETS yarngap-pictures LIBRARY DESTINATION ${CMAKE_INSTALL_LIBDIR}/yarngap)

set(packaging ${CMAKE_CURRENT_LIST_DIR})
set(made ${CMAKE_BINARY_DIR}/packaging)
configure_file(${packaging}/org.yarngap.YarnGap.metainfo.xml.in ${made}/org.yarngap.YarnGap.metainfo.xml @ONLY)
install(FILES ${made}/org.yarngap.YarnGap.metainfo.xml DESTINATION ${CMAKE_INSTALL_DATADIR}/metainfo)
install(FILES ${packaging}/org.yarngap.YarnGap.desktop DESTINATION ${CMAKE_INSTALL_DATADIR}/applications)
install(FILES ${packaging}/yarngap-mime.xml DESTINATION ${CMAKE_INSTALL_DATADIR}/mime/packages RENAME yarngap.xml)

set(icons ${CMAKE_INSTALL_DATADIR}/icons/hicolor)
foreach(size 16 24 32 48 64 128 256)
  install(FILES ${packaging}/icons/yarngap-${size}.png DESTINATION ${icons}/${size}x${size}/apps RENAME yarngap.png)
endforeach()
install(FILES ${packaging}/icons/yarngap.svg DESTINATION ${icons}/scalable/apps)
foreach(size 32 48 64 128)
  install(FILES ${packaging}/icons/yarngap-project-${size}.png DESTINATION ${icons}/${size}x${size}/mimetypes RENAME application-x-yarngap.png)
endforeach()
install(FILES ${packaging}/icons/yarngap-project.svg DESTINATION ${icons}/scalable/mimetypes RENAME application-x-yarngap.svg)

foreach(page yarngap yarngap-demo)
  configure_file(${packaging}/man/${page}.1.in ${made}/${page}.1 @ONLY)
  install(FILES ${made}/${page}.1 DESTINATION ${CMAKE_INSTALL_MANDIR}/man1)
endforeach()
# The page of the command line says what the program itself says.
add_custom_command(OUTPUT ${made}/yarngap-cli.1 DEPENDS yarngap-cli ${packaging}/man/command_page
                   COMMAND ${packaging}/man/command_page $<TARGET_FILE:yarngap-cli> ${PROJECT_VERSION} ${YARNGAP_RELEASED} > ${made}/yarngap-cli.1 VERBATIM)
add_custom_target(yarngap_pages ALL DEPENDS ${made}/yarngap-cli.1)
install(FILES ${made}/yarngap-cli.1 DESTINATION ${CMAKE_INSTALL_MANDIR}/man1)
install(FILES ${packaging}/completions/yarngap-cli.bash DESTINATION ${CMAKE_INSTALL_DATADIR}/bash-completion/completions RENAME yarngap-cli)
install(FILES ${packaging}/completions/_yarngap-cli DESTINATION ${CMAKE_INSTALL_DATADIR}/zsh/vendor-completions)

install(FILES ${CMAKE_SOURCE_DIR}/docs/guide.md DESTINATION ${CMAKE_INSTALL_DATADIR}/yarngap)
# With the pictures that it shows, in their folders.
install(DIRECTORY ${CMAKE_SOURCE_DIR}/docs/ DESTINATION ${CMAKE_INSTALL_DATADIR}/yarngap FILES_MATCHING PATTERN *.png
        PATTERN quality EXCLUDE)
if(YARNGAP_GUIDE)
  find_program(PANDOC pandoc REQUIRED)
  add_custom_command(OUTPUT ${made}/guide.html DEPENDS ${CMAKE_SOURCE_DIR}/docs/guide.md ${packaging}/guide.css
                     COMMAND ${PANDOC} --standalone --toc --toc-depth=2 --from=gfm "--metadata=title:Yarn Gap: the guide" --metadata=lang:en
                             --include-in-header=${packaging}/guide.css ${CMAKE_SOURCE_DIR}/docs/guide.md -o ${made}/guide.html VERBATIM)
  add_custom_target(yarngap_guide ALL DEPENDS ${made}/guide.html)
  install(FILES ${made}/guide.html DESTINATION ${CMAKE_INSTALL_DATADIR}/yarngap)
endif()
get_property(translations GLOBAL PROPERTY YARNGAP_TRANSLATIONS)
if(translations)
  install(FILES ${translations} DESTINATION ${CMAKE_INSTALL_DATADIR}/yarngap/translations)
endif()
