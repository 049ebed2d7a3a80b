# Installing: headers, libraries, tool, man page, bench, CMake and pkg-config.
include(CMakePackageConfigHelpers)

set(installed trueslate)
if(TRUESLATE_PORTS)
    list(APPEND installed trueslate-file trueslate-ports)
endif()
if(TRUESLATE_SIM)
    install(DIRECTORY share/bench
            DESTINATION ${CMAKE_INSTALL_DATADIR}/trueslate)
endif()
if(TRUESLATE_TOOL)
    install(TARGETS trueslate-tool
            RUNTIME DESTINATION ${CMAKE_INSTALL_BINDIR})
    install(FILES docs/trueslate.1
            DESTINATION ${CMAKE_INSTALL_MANDIR}/man1)
endif()
install(TARGETS ${installed} EXPORT TrueSlateTargets
        ARCHIVE DESTINATION ${CMAKE_INSTALL_LIBDIR})
install(DIRECTORY include/trueslate DESTINATION ${CMAKE_INSTALL_INCLUDEDIR})

set(package_dir ${CMAKE_INSTALL_LIBDIR}/cmake/TrueSlate)
install(EXPORT TrueSlateTargets NAMESPACE TrueSlate:: DESTINATION ${package_dir})
configure_package_config_file(
    cmake/TrueSlateConfig.cmake.in ${PROJECT_BINARY_DIR}/TrueSlateConfig.cmake
    INSTALL_DESTINATION ${package_dir})
write_basic_package_version_file(
    ${PROJECT_BINARY_DIR}/TrueSlateConfigVersion.cmake
    COMPATIBILITY SameMinorVersion)
install(FILES ${PROJECT_BINARY_DIR}/TrueSlateConfig.cmake
              ${PROJECT_BINARY_DIR}/TrueSlateConfigVersion.cmake
        DESTINATION ${package_dir})

configure_file(cmake/trueslate.pc.in ${PROJECT_BINARY_DIR}/trueslate.pc @ONLY)
install(FILES ${PROJECT_BINARY_DIR}/trueslate.pc
        DESTINATION ${CMAKE_INSTALL_LIBDIR}/pkgconfig)
