# install_packed(FILE FOLDER): installs a file as FILE.gz, packed as Debian's policy has it (12.3 and 12.7).
function(install_packed file folder)
  install(CODE "
    get_filename_component(to \"\$ENV{DESTDIR}\${CMAKE_INSTALL_PREFIX}/${folder}\" ABSOLUTE)
    get_filename_component(name \"${file}\" NAME)
    file(MAKE_DIRECTORY \"\${to}\")
    execute_process(COMMAND gzip -9nc \"${file}\" OUTPUT_FILE \"\${to}/\${name}.gz\" COMMAND_ERROR_IS_FATAL ANY)
    file(CHMOD \"\${to}/\${name}.gz\" PERMISSIONS OWNER_READ OWNER_WRITE GROUP_READ WORLD_READ)")
endfunction()
