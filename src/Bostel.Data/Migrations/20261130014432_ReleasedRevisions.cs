using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Bostel.Data.Migrations
{
    /// <inheritdoc />
    public partial class ReleasedRevisions : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<DateTimeOffset>(
                name: "ReleasedAt",
                table: "PlanRevisions",
                type: "timestamp with time zone",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "ReleasedBy",
                table: "PlanRevisions",
                type: "text",
                nullable: true);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropColumn(
                name: "ReleasedAt",
                table: "PlanRevisions");

            migrationBuilder.DropColumn(
                name: "ReleasedBy",
                table: "PlanRevisions");
        }
    }
}
